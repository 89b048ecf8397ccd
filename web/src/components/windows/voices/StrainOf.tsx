import type { NoteOut } from "../../../document/track/model";
import { noteLabel } from "../../../document/music/pitch_names";
import { strainSentence, voiceStrain } from "../../../document/track/strain";
import { barText } from "../../../document/time/time_text";
import { sourceToSong } from "../../../document/time/times";
import { selectById } from "../../../commands/notes/editing";
import { useEditor } from "../../../session/useStore";
import { PlainButton } from "../../ui/controls";
import { Found } from "../PassParts";

/** How strained a voice that is tried is, and which notes to listen to first. */
export function StrainOf({ notes }: { notes: readonly NoteOut[] }) {
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  const strain = voiceStrain(notes);
  if (!strain || !song) return null;
  return (
    <>
      <p aria-live="polite">{`${strainSentence(strain)}${strain.apart.length > 0 ? " Listen first to:" : ""}`}</p>
      {strain.apart.length > 0 && (
        <Found aria-label="Notes that are strained most">
          {strain.apart.map((note) => (
            <li key={note.id}>
              <PlainButton onPress={() => selectById(note.id)}>
                {`${noteLabel(song, note, note.tuned_midi, times)} · bar ${barText(sourceToSong(note.start_s, times), song)} · strain ${Math.round(note.strain)}`}
              </PlainButton>
            </li>
          ))}
        </Found>
      )}
    </>
  );
}
