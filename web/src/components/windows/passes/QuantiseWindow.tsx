import { useState } from "react";
import type { NoteOut, Operation } from "../../../document/track/model";
import { noteLabel } from "../../../document/music/pitch_names";
import type { PreviewOut } from "../../../document/schema";
import { sourceToSong } from "../../../document/time/times";
import { barText, shiftText } from "../../../document/time/time_text";
import { otherVocals } from "../../../document/track/vocals";
import { revealNote } from "../../../commands/notes/editing";
import { type ReachName, useReach } from "../../../commands/notes/reach";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { Found, Line, ReachChoice, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";
import { CheckBox } from "../../ui/CheckBox";
import { PlainButton, Quiet } from "../../ui/controls";
import { Picker } from "../../ui/Picker";
import { ValueRow } from "../../ui/ValueRow";

type Quantise = Extract<Operation, { type: "quantise" }>;
type Grid = NonNullable<Quantise["grid"]>;

const GRIDS: readonly [Grid, string][] = [
  ["bar", "Bars"],
  ["beat", "Beats"],
  ["1/2", "1/2"],
  ["1/4", "1/4"],
  ["1/8", "1/8"],
  ["1/16", "1/16"],
  ["1/32", "1/32"],
  ["1/4 triplet", "1/4 triplets"],
  ["1/8 triplet", "1/8 triplets"],
  ["1/16 triplet", "1/16 triplets"],
  ["1/4 dotted", "1/4 dotted"],
  ["1/8 dotted", "1/8 dotted"],
  ["1/16 dotted", "1/16 dotted"],
];

/** Notes that a preview moves, with by how many ms each starts later than now. */
function moved(now: NoteOut[], tried: PreviewOut): { note: NoteOut; by_ms: number }[] {
  const before = new Map(now.map((note) => [note.id, note]));
  return tried.notes
    .map((note) => ({ note, by_ms: note.gesture.start_shift_ms - (before.get(note.id)?.gesture.start_shift_ms ?? 0) }))
    .filter(({ by_ms }) => Math.abs(by_ms) >= 0.05)
    .sort((a, b) => a.note.start_s - b.note.start_s);
}

function MovedNotes({ found, of }: { found: ReturnType<typeof moved>; of: number }) {
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  if (!song) return null;
  return (
    <>
      <p aria-live="polite">{found.length === 1 ? "1 note moves." : `${found.length} of ${of} notes move.`}</p>
      {found.length > 0 && (
        <Found aria-label="Notes that move">
          {found.map(({ note, by_ms }) => (
            <li key={note.id}>
              <PlainButton onPress={() => revealNote(note.id, note.start_s, note.end_s)}>
                {`${barText(sourceToSong(note.start_s, times), song)}  ${noteLabel(song, note, note.tuned_midi, times)}  ${shiftText(by_ms)}`}
              </PlainButton>
            </li>
          ))}
        </Found>
      )}
    </>
  );
}

/** Bring the starts of notes to the song's grid, or to where another track's notes start. */
export function QuantiseWindow() {
  const song = useEditor((s) => s.song);
  const trackId = useEditor((s) => s.trackId);
  const notes = useEditor((s) => s.content?.notes) ?? [];
  const some = useEditor((s) => s.selection.size > 0);
  const [reach, setReach] = useState<ReachName>(some ? "selection" : "phrase");
  const [onto, setOnto] = useState("grid");
  const [grid, setGrid] = useState<Grid>("1/8");
  const [swing, setSwing] = useState(50);
  const [strength, setStrength] = useState(100);
  const [beyond, setBeyond] = useState(15);
  const [ends, setEnds] = useState(false);
  const chosen = useReach(reach === "selection" && !some ? "phrase" : reach);
  const usable = onto !== "grid" || song?.tempo_chosen;
  const operation: Quantise | null =
    chosen && usable && chosen.noteIds.length > 0
      ? {
          type: "quantise",
          note_ids: chosen.noteIds,
          grid,
          swing: swing / 100,
          onto: onto === "grid" ? null : onto,
          strength: strength / 100,
          beyond_ms: beyond,
          ends,
        }
      : null;
  const tried = useTried(operation);
  const found = tried ? moved(notes, tried) : null;
  return (
    <SideWindow title="Quantise" onClose={() => showWindow(null)}>
      <Quiet>Notes go to the grid with where their vowel starts; the consonants before it come along.</Quiet>
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      <Line>
        <Picker
          label="Go by"
          options={[
            ["grid", "the song’s bars"],
            ...otherVocals(song, trackId).map((track) => [track.id, `${track.name}’s notes`] as const),
          ]}
          value={onto}
          onChange={setOnto}
        />
        {onto === "grid" && (
          <Picker label="Grid" options={GRIDS} value={grid} onChange={(next) => setGrid(next as Grid)} />
        )}
      </Line>
      {!usable && <p role="status">The song has no tempo yet. Set one under its key, tempo and tuning.</p>}
      {onto === "grid" && (
        <ValueRow label="Swing" unit="%" value={swing} min={50} max={80} step={1} onCommit={setSwing} />
      )}
      <ValueRow label="Strength" unit="%" value={strength} min={0} max={100} step={1} onCommit={setStrength} />
      <ValueRow label="Only over" unit="ms" value={beyond} min={0} max={200} step={1} onCommit={setBeyond} />
      <CheckBox checked={ends} onChange={setEnds}>
        Ends too
      </CheckBox>
      {found && <MovedNotes found={found} of={chosen?.noteIds.length ?? 0} />}
      <TakeLine operation={operation} nothing={!found || found.length === 0} />
    </SideWindow>
  );
}
