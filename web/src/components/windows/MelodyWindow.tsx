import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import { barText } from "../../document/time_text";
import { sourceToSong } from "../../document/times";
import { type Melody, readMelody } from "../../hooks/deriving";
import { revealNote } from "../../hooks/editing";
import { reachOf, type ReachName } from "../../hooks/reach";
import { useEditor } from "../../hooks/useStore";
import { showWindow } from "../../hooks/view";
import { CheckBox } from "../ui/CheckBox";
import { Button, PlainButton, Quiet } from "../ui/controls";
import { ValueRow } from "../ui/ValueRow";
import { Found, ReachChoice, TakeLine, useTried } from "./PassParts";
import { SideWindow } from "./SideWindow";

/** Targets from the notes of a MIDI file, by where they are; bar 1 is where the file begins. */
export function MelodyWindow() {
  const notes = useEditor((s) => s.content?.notes) ?? [];
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  const some = useEditor((s) => s.selection.size > 0);
  const [file, setFile] = useState("");
  const [melody, setMelody] = useState<Melody["melody"] | null>(null);
  const [near, setNear] = useState(true);
  const [lean, setLean] = useState(0);
  const [reach, setReach] = useState<ReachName>("track");
  const chosen = reachOf(reach === "selection" && !some ? "phrase" : reach);
  const operation: Melody | null =
    melody && chosen && chosen.noteIds.length > 0
      ? { type: "melody", melody, note_ids: chosen.noteIds, exact: !near, lean: lean / 100 }
      : null;
  const tried = useTried(operation);
  const changed = new Set(tried?.notes.map((note) => note.id));
  const left = tried ? notes.filter((note) => chosen?.noteIds.includes(note.id) && !changed.has(note.id)) : [];
  const read = async (picked: File): Promise<void> => {
    setMelody(await readMelody(picked));
    setFile(picked.name);
  };
  if (!song) return null;
  return (
    <SideWindow title="Melody" onClose={() => showWindow(null)}>
      <Quiet>
        Each note goes to the one of the file that sounds longest while it is sung; the file begins at bar 1.
      </Quiet>
      <FileTrigger
        acceptedFileTypes={[".mid", ".midi", "audio/midi"]}
        onSelect={(files) => files?.[0] && void read(files[0])}
      >
        <Button>{file === "" ? "Choose a MIDI file…" : file}</Button>
      </FileTrigger>
      <CheckBox checked={near} onChange={setNear}>
        In the octave that is sung
      </CheckBox>
      <ValueRow label="Formants" unit="%" value={lean} min={0} max={100} step={1} onCommit={setLean} />
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      {tried && (
        <p aria-live="polite">{`${changed.size} of ${chosen?.noteIds.length ?? 0} notes are in the melody.`}</p>
      )}
      {left.length > 0 && (
        <>
          <Quiet>Without a note of the melody, and left as they are</Quiet>
          <Found aria-label="Not in the melody">
            {left.map((note) => (
              <li key={note.id}>
                <PlainButton onPress={() => revealNote(note.id, note.start_s, note.end_s)}>
                  {barText(sourceToSong(note.start_s, times), song)}
                </PlainButton>
              </li>
            ))}
          </Found>
        </>
      )}
      <TakeLine operation={operation} nothing={!tried || changed.size === 0} />
    </SideWindow>
  );
}
