import type { Operation } from "../../../document/track/model";
import { noteLabel } from "../../../document/music/pitch_names";
import { usePassReach } from "../../../commands/notes/passes";
import { revealNote } from "../../../commands/notes/editing";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { useState } from "react";
import { CheckBox } from "../../ui/CheckBox";
import { PlainButton, Quiet } from "../../ui/controls";
import { Found, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";

/** Every note that holds two pitches is cut where one passes into the other, seen and listed before it is taken. */
export function TwoPitchesWindow() {
  const [whole, setWhole] = useState(true);
  const reach = usePassReach(whole);
  const song = useEditor((s) => s.song);
  const times = useEditor((s) => s.view.times);
  const before = useEditor((s) => s.content?.notes);
  const held = useEditor((s) => s.content?.notes.some((n) => n.flags.some((f) => f.kind === "two pitches")) ?? false);
  const operation: Operation | null = held ? { type: "split_two_pitches", note_ids: reach.ids } : null;
  const tried = useTried(operation);
  const known = new Set(before?.map((note) => note.id));
  const fresh = tried?.notes.filter((note) => !known.has(note.id)) ?? [];
  return (
    <SideWindow title="Two pitches" onClose={() => showWindow(null)}>
      <Quiet>
        Cuts each note that holds two pitches where one passes into the other. Both parts keep what was asked.
      </Quiet>
      <CheckBox checked={whole} onChange={setWhole}>
        Whole track
      </CheckBox>
      <p aria-live="polite">
        {held
          ? `Acts on ${reach.words}: ${fresh.length === 1 ? "1 note is cut" : `${fresh.length} notes are cut`}.`
          : "No note here holds two pitches."}
      </p>
      <Found>
        {song &&
          fresh.map((note) => (
            <li key={note.id}>
              <PlainButton onPress={() => revealNote(note.id, note.start_s, note.end_s)}>
                {`from ${noteLabel(song, note, note.centre_midi, times)} at ${note.start_s.toFixed(2)} s`}
              </PlainButton>
            </li>
          ))}
      </Found>
      <TakeLine operation={operation} nothing={fresh.length === 0} />
    </SideWindow>
  );
}
