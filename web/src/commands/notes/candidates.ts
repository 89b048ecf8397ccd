/** Two targets of a note between which an ear chooses. */

import { api } from "../../api/client";
import type { CandidateOut } from "../../document/schema";
import { store } from "../../document/track/store";
import { report, SELECTION, say } from "../../session/report";
import { edit, editSelection, selectedNotes } from "./editing";

/** The two candidates of a note, or those that are offered, with how each sits on the backing. */
export async function askCandidates(noteId: string): Promise<CandidateOut[]> {
  const { content } = store.getState();
  let found: CandidateOut[] = [];
  if (content)
    await report(async () => {
      found = (await api.candidates(content.track_id, content.step_id, noteId)).candidates;
    });
  return found;
}

export function nameCandidates(first: string, second: string): Promise<boolean> {
  return editSelection({ type: "set_candidates", targets: [first, second] });
}

/** Let the other candidate sound, also while it plays; a note without any is given those that are offered. */
export async function swapCandidates(): Promise<void> {
  const chosen = selectedNotes();
  const [note] = chosen;
  if (!note) return say("Select a note first, to hear its other candidate.", "trouble", SELECTION);
  if (chosen.some((one) => one.gesture.candidates.length > 0)) {
    await editSelection({ type: "swap_candidates" });
    return;
  }
  const [first, second] = await askCandidates(note.id);
  if (first && second)
    await edit({ type: "set_candidates", note_ids: [note.id], targets: [first.label, second.label] });
}
