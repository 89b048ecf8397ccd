/** Follow: how the open track lies on another one, and the links it has. */

import { api } from "../../api/client";
import type { Operation } from "../../document/track/model";
import { store, trackOf } from "../../document/track/store";
import { edit } from "../notes/editing";
import { perSession } from "../../session/editor_session";
import { Question } from "../../document/question";
import { report } from "../../session/report";

export type Follow = Extract<Operation, { type: "follow" }>;
/** Moments that belong together: in the lead's recording and in the follower's, seconds. */
export type Anchor = readonly [number, number];

const aligning = perSession((session) => new Question(session.ends));

/** Show how the open track lies on another one; null hides it. */
export async function showAlignment(leadTrack: string | null, anchors: readonly Anchor[]): Promise<void> {
  const signal = aligning().ask();
  if (leadTrack === null) {
    store.setState({ alignment: null });
    return;
  }
  await report(async () => {
    const { content } = store.getState();
    if (!content) return;
    const wanted = {
      step: content.step_id,
      lead_track: leadTrack,
      anchors: anchors.map(([a, b]): [number, number] => [a, b]),
    };
    const alignment = await api.alignment(content.track_id, wanted, signal);
    if (!signal.aborted) store.setState({ alignment });
  });
}

/** What belongs to where the cursor is in the lead, for the first selected note of the open track. */
export function anchorAtCursor(leadTrack: string): Anchor | null {
  const { content, selection, song, cursor_s } = store.getState();
  const note = content?.notes.find((one) => selection.has(one.id));
  const lead = song?.tracks.find((track) => track.id === leadTrack);
  if (!note || !lead || !trackOf(store.getState())) return null;
  return [cursor_s - lead.offset_s, note.start_s];
}

/** Bring the open track level with what a link of it leads to. */
export function catchUp(link_id: string): void {
  void edit({ type: "catch_up", link_id });
}

/** Let a link catch up by itself, or only when asked. */
export function letCatchUp(linkId: string, by_itself: boolean): void {
  void edit({ type: "set_link", link_ids: [linkId], by_itself });
}

export function letGo(linkId: string): void {
  void edit({ type: "unlink", link_ids: [linkId] });
}
