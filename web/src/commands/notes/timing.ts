/** Time of the selection: moved by keys, typed, pinned. */

import { api } from "../../api/client";
import { store } from "../../document/track/store";
import { songToSource, sourceToSong } from "../../document/time/times";
import type { TimeDrag } from "../../gestures/move_time";
import { gridStep } from "../../gestures/move_time";
import { edit, editSelection, selectedNotes } from "./editing";
import { say } from "../../session/report";

const PIN_REACH_S = 0.05;

/** How far a press moves the selection in time, in ms: 5, finer 1, coarser one step of the grid; null where there is none. */
export function slipOf(sign: 1 | -1, event: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): number | null {
  const { song, view } = store.getState();
  if (!song) return null;
  const coarse = event.ctrlKey || event.metaKey;
  if (coarse && !song.tempo_chosen) {
    say("The song has no tempo yet: set one first.", "trouble");
    return null;
  }
  if (event.shiftKey) return sign;
  return sign * (coarse ? 1000 * gridStep(sourceToSong(selectedNotes()[0]?.start_s ?? 0, view.times), song) : 5);
}

/** Ask how far a drag can go; it is held there as soon as that is known. */
export async function askRoom(drag: TimeDrag): Promise<void> {
  const { content } = store.getState();
  if (!content) return;
  try {
    const { noteIds, edge, follow } = drag;
    drag.room = await api.timeRoom(content.track_id, content.step_id, { note_ids: noteIds, edge, follow });
  } catch {
    drag.room = null; // the edit itself says what is wrong
  }
}

/** What comes after a moved note follows, or stays. */
export function letFollow(timeFollows: boolean): void {
  store.setState({ timeFollows });
}

/** Hold the moment of the cursor where it is; a pin that is there is taken away. */
export function pinCursor(): void {
  const { content, cursor_s, view } = store.getState();
  if (!content) return;
  const at_s = Math.max(0, songToSource(cursor_s, view.times));
  const near = content.pins.find((pin) => Math.abs(pin.at_s - at_s) < PIN_REACH_S);
  void edit(near ? { type: "unpin", pin_ids: [near.id] } : { type: "pin", at_s });
}

export function takePinsAway(): void {
  void edit({ type: "unpin" });
}

/** Put the first chosen note's start at a moment of the song; the others move with it. */
export function startAt(song_s: number): Promise<boolean> {
  const first = selectedNotes()[0];
  if (!first) return Promise.resolve(false);
  const { view, timeFollows } = store.getState();
  const by_ms = 1000 * (song_s - sourceToSong(first.start_s, view.times));
  return editSelection({ type: "slip", by_ms, follow: timeFollows });
}
