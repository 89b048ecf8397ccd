import { useState } from "react";
import { Link } from "react-aria-components";
import { useShallow } from "zustand/react/shallow";
import { type OtherKind, otherFile, printedIn } from "../../commands/song/printing";
import { useEditor } from "../../session/useStore";
import { Button, Quiet } from "../ui/controls";
import { Picker } from "../ui/Picker";
import { Rows } from "./print_parts";

const BENDS = [
  ["0", "no pitch bend"],
  ["2", "bend, 2 semitones"],
  ["12", "bend, 12 semitones"],
  ["24", "bend, 24 semitones"],
] as const;

/** What other programs take of the version or comp that is shown. */
export function OtherFiles({ onClose }: { onClose: () => void }) {
  const [bend, setBend] = useState("0");
  const of = useEditor(useShallow(printedIn));
  const link = (text: string, kind: OtherKind, semitones = 0) =>
    of && (
      <Link href={otherFile(of, kind, semitones)} download>
        {text}
      </Link>
    );
  return (
    <Rows>
      <Quiet>Of</Quiet>
      <span>{of?.name}</span>
      <span>Melody</span>
      <span className="line">
        {link("Save as MIDI", "melody.mid", Number(bend))}
        <Picker label="Pitch bend" options={BENDS} value={bend} onChange={setBend} />
      </span>
      <span />
      <Quiet>With tempo, meter, key and words; velocity follows the level.</Quiet>
      <span>Score</span>
      <span className="line">{link("Save as MusicXML", "melody.musicxml")}</span>
      <span />
      <Quiet>By sixteenths, with key, meter, tempo and words.</Quiet>
      <span>Notes</span>
      <span className="line">
        {link("Save as CSV", "notes.csv")}
        {link("Save as JSON, with all edits", "notes.json")}
      </span>
      <span>Labels</span>
      <span className="line">
        {link("Save as text, tabs between", "notes.txt")}
        {link("Save as TextGrid", "notes.TextGrid")}
      </span>
      <span>Tuned contour</span>
      <span className="line">{link("Save as CSV", "contour.csv")}</span>
      <span className="end">
        <Button onPress={onClose}>Close</Button>
      </span>
    </Rows>
  );
}
