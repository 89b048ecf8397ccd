import { useState } from "react";
import type { Given, Melody } from "../../../commands/voices/melody";
import { useNotesOf } from "../../../commands/notes/reach";
import { useEditor } from "../../../session/useStore";
import { showWindow } from "../../../session/view";
import { CheckBox } from "../../ui/CheckBox";
import { Quiet } from "../../ui/controls";
import { ValueRow } from "../../ui/ValueRow";
import { MelodySource, NotMatched } from "./MelodySource";
import { ReachChoice, TakeLine, useTried } from "../PassParts";
import { SideWindow } from "../SideWindow";

/** Targets from a melody for the notes of the open track, whose gestures are kept. */
export function MelodyWindow() {
  const some = useEditor((s) => s.selection.size > 0);
  const [given, setGiven] = useState<Given | null>(null);
  const [near, setNear] = useState(true);
  const [lean, setLean] = useState(0);
  const { reach, setReach, notes } = useNotesOf(some ? "selection" : "track");
  const operation: Melody | null =
    given && notes.length > 0
      ? { type: "melody", ...given, note_ids: notes.map((note) => note.id), exact: !near, lean: lean / 100 }
      : null;
  const tried = useTried(operation);
  return (
    <SideWindow title="Melody" onClose={() => showWindow(null)}>
      <Quiet>New targets for what is sung; everything else of each note stays.</Quiet>
      <MelodySource notes={notes} onChange={setGiven} />
      <CheckBox checked={near} onChange={setNear}>
        In the octave that is sung
      </CheckBox>
      <ValueRow label="Formants" unit="%" value={lean} min={0} max={100} step={1} onCommit={setLean} />
      <ReachChoice selection={some} value={reach} onChange={setReach} />
      {tried && <p aria-live="polite">{`${tried.changed_notes} of ${notes.length} notes change.`}</p>}
      <NotMatched given={given} notes={notes} words="Not in both, and left as they are" />
      <TakeLine operation={operation} nothing={!tried?.changed_notes} />
    </SideWindow>
  );
}
