/** What lies under the pointer. */

import { type Curves, type NoteOut, pitchHeld, type View } from "../document/track/model";
import { type Lanes, midiToY, timeToX, xToTime } from "./viewport";

const REACH = 9;

/** The note under a point, the nearest one when several are. */
export function noteAt(
  x: number,
  y: number,
  notes: NoteOut[],
  curves: Curves,
  view: View,
  lanes: Lanes,
): NoteOut | null {
  const time = xToTime(x, view, lanes);
  const frame = Math.round(time / curves.hop_s);
  let best: NoteOut | null = null;
  let least = Infinity;
  for (const note of notes) {
    if (x < timeToX(note.start_s, view, lanes) - 2 || x > timeToX(note.end_s, view, lanes) + 2) continue;
    const rail = midiToY(note.target_midi, view, lanes);
    const held = midiToY(pitchHeld(note), view, lanes);
    const sung = midiToY(curves.sung[frame] ?? note.centre_midi, view, lanes);
    const tuned = midiToY(curves.tuned[frame] ?? note.centre_midi, view, lanes);
    const places = [rail, held, sung, tuned].filter(Number.isFinite);
    const inside = y >= Math.min(...places) - REACH && y <= Math.max(...places) + REACH;
    const distance = Math.min(...places.map((place) => Math.abs(place - y)));
    if (inside && distance < least) {
      least = distance;
      best = note;
    }
  }
  return best;
}

/** Notes whose body touches a rectangle. */
export function notesIn(
  box: { x0: number; y0: number; x1: number; y1: number },
  notes: NoteOut[],
  view: View,
  lanes: Lanes,
): string[] {
  const [left, right] = [Math.min(box.x0, box.x1), Math.max(box.x0, box.x1)];
  const [top, bottom] = [Math.min(box.y0, box.y1), Math.max(box.y0, box.y1)];
  return notes
    .filter((note) => {
      const a = timeToX(note.start_s, view, lanes);
      const b = timeToX(note.end_s, view, lanes);
      const centre = midiToY(note.centre_midi, view, lanes);
      const rail = midiToY(note.target_midi, view, lanes);
      return b >= left && a <= right && Math.max(centre, rail) >= top && Math.min(centre, rail) <= bottom;
    })
    .map((note) => note.id);
}
