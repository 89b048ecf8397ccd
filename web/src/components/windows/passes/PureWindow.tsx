import { useState } from "react";
import { revealNote } from "../../../commands/notes/editing";
import { useNotesOf } from "../../../commands/notes/reach";
import { chordRows } from "../../../commands/voices/chords";
import { chordAt, placeOn } from "../../../document/music/chord_place";
import { noteLabel, signed } from "../../../document/music/pitch_names";
import type { NoteOut, Operation } from "../../../document/track/model";
import { barText } from "../../../document/time/time_text";
import { sourceToSong } from "../../../document/time/times";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { PlainButton, Quiet } from "../../ui/controls";
import { ValueRow } from "../../ui/ValueRow";
import { Found, ReachChoice, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";

type Lean = Extract<Operation, { type: "lean_to_chords" }>;

/** Each note that leans: where it is, what it is of its chord, and by how many cents its target moves. */
function Leaning({ before, after }: { before: readonly NoteOut[]; after: readonly NoteOut[] }) {
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  const chords = useEditor((s) => s.chords);
  if (!song) return null;
  const was = new Map(before.map((note) => [note.id, note]));
  const leaning = after.filter((note) => note.target_midi !== was.get(note.id)?.target_midi);
  return (
    <>
      <p aria-live="polite">{leaning.length === 1 ? "1 note leans." : `${leaning.length} notes lean.`}</p>
      <Found aria-label="Notes that lean">
        {leaning.map((note) => {
          const chord = chordAt(chords, sourceToSong((note.start_s + note.end_s) / 2, times));
          const even = Math.round(note.target_midi);
          const cents = 100 * (note.target_midi - (was.get(note.id)?.target_midi ?? even));
          return (
            <li key={note.id}>
              <PlainButton onPress={() => revealNote(note.id, note.start_s, note.end_s)}>
                {[
                  barText(sourceToSong(note.start_s, times), song),
                  noteLabel(song, note, even, times),
                  chord ? `${placeOn(chord, even)} of ${chord.title}` : "",
                  `${signed(cents, 1)} ct`,
                ].join("  ")}
              </PlainButton>
            </li>
          );
        })}
      </Found>
    </>
  );
}

/** Held thirds and fifths of the chords lean to their pure intervals, by a share. */
export function PureWindow() {
  const chords = useEditor((s) => s.chords);
  const some = useEditor((s) => s.selection.size > 0);
  const [share, setShare] = useState(50);
  const [least, setLeast] = useState(300);
  const { reach, setReach, notes } = useNotesOf(some ? "selection" : "track");
  const operation: Lean | null =
    notes.length === 0 || chords.length === 0
      ? null
      : {
          type: "lean_to_chords",
          chords: chordRows(chords),
          note_ids: notes.map((note) => note.id),
          share: share / 100,
          least_s: least / 1000,
        };
  const tried = useTried(operation);
  return (
    <SideWindow title="Pure intervals" onClose={() => showWindow(null)}>
      <Quiet>
        Targets of held thirds and fifths lean to the pure interval over the root of their chord: a major third 14 cents
        down, a minor third 16 up, a fifth 2 up.
      </Quiet>
      {chords.length === 0 && <p role="status">The song has no chords yet: bring a backing in, or type them.</p>}
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      <ValueRow label="Lean" unit="%" value={share} min={0} max={100} step={5} onCommit={setShare} />
      <ValueRow label="Held for" unit="ms" value={least} min={0} max={3000} step={50} onCommit={setLeast} />
      {tried && <Leaning before={notes} after={tried.notes} />}
      <TakeLine operation={operation} nothing={tried === null} />
    </SideWindow>
  );
}
