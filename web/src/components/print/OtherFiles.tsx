import { useState } from "react";
import { Link } from "react-aria-components";
import { otherFile, printed } from "../../hooks/printing";
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
  const link = (text: string, url: string | null) =>
    url === null ? null : (
      <Link href={url} download>
        {text}
      </Link>
    );
  return (
    <Rows>
      <Quiet>Of</Quiet>
      <span>{printed()?.name}</span>
      <span>Melody</span>
      <span className="line">
        {link("Save as MIDI", otherFile("melody.mid", Number(bend)))}
        <Picker label="Pitch bend" options={BENDS} value={bend} onChange={setBend} />
      </span>
      <span />
      <Quiet>With tempo, meter, key and words; velocity follows the level.</Quiet>
      <span>Notes</span>
      <span className="line">
        {link("Save as CSV", otherFile("notes.csv"))}
        {link("Save as JSON, with all edits", otherFile("notes.json"))}
      </span>
      <span>Tuned contour</span>
      <span className="line">{link("Save as CSV", otherFile("contour.csv"))}</span>
      <span className="end">
        <Button onPress={onClose}>Close</Button>
      </span>
    </Rows>
  );
}
