/** Commands on the selection beyond setting values. */

import { api } from "../../api/client";
import type { NoteOut } from "../../document/track/model";
import { store, timesNow } from "../../document/track/store";
import { linesOf } from "../../document/music/pitch_names";
import { roundPitch } from "../../document/music/rounding";
import { songToSource } from "../../document/time/times";
import { edit, editSelection, selectedNotes } from "./editing";
import { listenTo } from "../../listening/playing";
import { SELECTION, report, say } from "../../session/report";
import { pointerPlace } from "./splitting";

export function joinSelection(): void {
  const { content } = store.getState();
  const chosen = selectedNotes();
  if (chosen.length === 1 && content) {
    const next = content.notes[content.notes.findIndex((note) => note.id === chosen[0]!.id) + 1];
    if (next) return void edit({ type: "join", note_ids: [chosen[0]!.id, next.id] });
  }
  void editSelection({ type: "join" });
}

/** Whether a note is just as tuning it would leave it. */
function tunedAsOwn(note: NoteOut): boolean {
  const { song, ownStrength, view } = store.getState();
  if (!song || Math.abs(note.gesture.pull - ownStrength) > 1e-6) return false;
  const rounding = note.gesture.rounding === "free" ? "scale" : note.gesture.rounding;
  const near = roundPitch(note.centre_midi, linesOf(song, note, view.times.offset_s), rounding);
  return Math.abs(near - note.target_midi) < 1e-6;
}

/** Tune the selection by one's own strength; what is tuned so already goes back to where it was sung. */
export function tuneSelection(): void {
  void editSelection((chosen) =>
    chosen.every(tunedAsOwn)
      ? { type: "put_back", aspect: "centre" }
      : { type: "tune", pull: store.getState().ownStrength },
  );
}

/** Give the ways into the chosen notes the length that suits them. */
export function softenJoins(): void {
  void editSelection({ type: "soften_joins" });
}

/** Leave the selection as sung, or, when all of it is, let passes act on it again. */
export function toggleLeave(): void {
  void editSelection((chosen) => ({ type: "leave_as_sung", leave: !chosen.every((note) => note.leave_as_sung) }));
}

export function copySelection(): void {
  const chosen = selectedNotes().map((note) => note.id);
  if (chosen.length === 0) return say("Select the notes to copy from first.", "trouble", SELECTION);
  store.setState({ copied: chosen });
  say(`The gestures of ${chosen.length === 1 ? "1 note" : `${chosen.length} notes`} are copied.`, "done");
}

export function pasteGestures(targets: boolean, timing = false): void {
  const { copied } = store.getState();
  if (copied.length === 0) return say("Copy gestures first, with Ctrl+C.", "trouble");
  const to_ids = selectedNotes().map((note) => note.id);
  if (to_ids.length === 0) return say("Select the notes to put the gestures on.", "trouble", SELECTION);
  void edit({ type: "copy_gestures", from_ids: copied, to_ids, targets, timing });
}

/** The phrase of the selection and those that repeat it in pitch and rhythm. */
export async function findAlike(): Promise<{ phrase: number; alike: number[] } | null> {
  const { content } = store.getState();
  const first = selectedNotes()[0];
  if (!content || !first) return null;
  let alike: number[] = [];
  const fine = await report(async () => {
    alike = (await api.alike(content.track_id, content.step_id, first.phrase)).phrases;
  });
  return fine ? { phrase: first.phrase, alike } : null;
}

/** Take the centre from the part around a time. */
function centreHere(note: NoteOut, time_s: number): void {
  const half = Math.min(0.12, (note.end_s - note.start_s) / 4);
  const at = Math.min(Math.max(time_s, note.start_s + half), note.end_s - half);
  void edit({ type: "centre_here", note_id: note.id, start_s: at - half, end_s: at + half });
}

/** The centre from around the pointer, the play position or the middle, whichever lies in the note first. */
export function centreAtPointer(): void {
  const note = selectedNotes()[0];
  if (!note) return say("Select the note whose centre is to be set.", "trouble", SELECTION);
  const cursor = songToSource(store.getState().cursor_s, timesNow());
  const places = [pointerPlace.time_s, cursor, (note.start_s + note.end_s) / 2];
  centreHere(
    note,
    places.find((time_s) => time_s > note.start_s && time_s < note.end_s)!,
  );
}

/** Make a note of the voiced stretch around the play position that belongs to none. */
export function makeNoteAtCursor(): void {
  const { content, curves, cursor_s } = store.getState();
  if (!content || !curves) return;
  const at_s = songToSource(cursor_s, timesNow());
  const frame = Math.round(at_s / curves.hop_s);
  const free = (i: number): boolean => {
    const time_s = (i + 0.5) * curves.hop_s;
    const sung = Number.isFinite(curves.sung[i] ?? Number.NaN);
    return sung && !content.notes.some((note) => time_s > note.start_s && time_s < note.end_s);
  };
  if (!free(frame)) return say("Put the play position on a sung stretch that is no note yet.", "trouble");
  let [a, b] = [frame, frame + 1];
  while (a > 0 && free(a - 1)) a -= 1;
  while (free(b)) b += 1;
  void edit({ type: "make_note", start_s: a * curves.hop_s, end_s: b * curves.hop_s });
}

/** Remember how it is now, to be compared with later. */
export function markNow(): void {
  const { content } = store.getState();
  if (!content) return;
  store.setState({ markedStep: content.step_id });
  say("Marked. “At mark” plays it as it is now, whatever you change from here.", "done");
}

export function listenAtMark(): void {
  if (store.getState().markedStep === null) return say("Nothing is marked yet: press M to mark how it is.", "trouble");
  listenTo("marked");
}
