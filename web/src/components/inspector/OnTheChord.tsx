import { chordAt, placeOn } from "../../document/music/chord_place";
import type { NoteOut } from "../../document/track/model";
import { sourceToSong } from "../../document/time/times";
import { useEditor } from "../../session/useStore";

/** How the target of a note sits on the chord that sounds in its middle, while chords are shown. */
export function OnTheChord({ note }: { note: NoteOut }) {
  const chords = useEditor((s) => s.chords);
  const shown = useEditor((s) => s.showsChords);
  const times = useEditor((s) => s.view.times);
  const chord = shown ? chordAt(chords, sourceToSong((note.start_s + note.end_s) / 2, times)) : undefined;
  if (!chord) return null;
  return (
    <>
      <dt>On the chord</dt>
      <dd>{`${chord.title}, ${placeOn(chord, note.target_midi)}`}</dd>
    </>
  );
}
