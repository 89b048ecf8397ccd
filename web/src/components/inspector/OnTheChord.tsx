import { placeOn } from "../../document/music/chord_place";
import type { NoteOut } from "../../document/track/model";
import { useChordOf } from "../../hooks/useChords";

/** How the target of a note sits on the chord that sounds in its middle, while chords are shown. */
export function OnTheChord({ note }: { note: NoteOut }) {
  const chord = useChordOf(note);
  if (!chord) return null;
  return (
    <>
      <dt>On the chord</dt>
      <dd>{`${chord.title}, ${placeOn(chord, note.target_midi)}`}</dd>
    </>
  );
}
