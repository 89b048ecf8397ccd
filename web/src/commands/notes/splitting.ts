/** Splitting a note: a place is proposed first, with the two centres, and taken with a click or a second X. */

import { api } from "../../api/client";
import { store, timesNow } from "../../document/track/store";
import { songToSource } from "../../document/time/times";
import { edit, selectedNotes } from "./editing";
import { perSession } from "../../session/editor_session";
import { Question } from "../../document/question";
import { SELECTION, report, say } from "../../session/report";

/** Where the pointer was last over the sheet, in seconds of the track. */
export const pointerPlace = { time_s: 0 };

const proposing = perSession((session) => new Question(session.ends));

/** Show where the note under a time would be cut; `exact` takes the very place. */
export async function proposeSplitAt(time_s: number, exact: boolean): Promise<void> {
  const { content } = store.getState();
  const note = content?.notes.find((candidate) => time_s > candidate.start_s && time_s < candidate.end_s);
  if (!content || !note) return;
  const signal = proposing().ask();
  await report(async () => {
    const asked = { step: content.step_id, note_id: note.id, at_s: time_s, exact };
    const proposal = await api.splitProposal(content.track_id, asked, signal);
    if (!signal.aborted) store.setState({ sketch: { kind: "split", proposal } });
  });
}

/** Start splitting at the pointer, or, when it is over no chosen note, at the play position or the note's middle. */
export async function beginSplit(): Promise<void> {
  const state = store.getState();
  if (state.sketch?.kind === "split") return takeSplit();
  const note = selectedNotes()[0];
  const inside = (time_s: number): boolean => (note ? time_s > note.start_s && time_s < note.end_s : hasNote(time_s));
  const cursor = songToSource(state.cursor_s, timesNow());
  const places = [pointerPlace.time_s, cursor, note ? (note.start_s + note.end_s) / 2 : Number.NaN];
  const at = places.find(inside);
  if (at === undefined) return say("Select a note, or point at one, to split it.", "trouble", SELECTION);
  await proposeSplitAt(at, false);
}

function hasNote(time_s: number): boolean {
  return store.getState().content?.notes.some((note) => time_s > note.start_s && time_s < note.end_s) ?? false;
}

export async function takeSplit(): Promise<void> {
  const { sketch } = store.getState();
  if (sketch?.kind !== "split") return;
  const { note_id, at_s } = sketch.proposal;
  proposing().callOff();
  store.setState({ sketch: null });
  await edit({ type: "split", note_id, at_s, exact: true });
}
