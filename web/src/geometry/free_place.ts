/** Room for a small panel beside a note. */

import type { Curves, NoteOut, View } from "../document/track/model";
import { notesIn } from "./hit_test";
import { type Lanes, midiToY, timeToX, xToTime } from "./viewport";

export interface Size {
  width: number;
  height: number;
}

export interface Place {
  left: number;
  top: number;
}

const ASIDE = 14;
const ABOVE = 56; // the note's name and its handles stand within
const NAME = 70;
const NAME_RISE = 24; // the name of another note stands so far above its rail
const [STEP_X, STEP_Y] = [36, 24];
const PIXELS_A_SAMPLE = 3;

/** The place inside the pitch lane, nearest to the note, that covers nothing; null when there is none. */
export function freePlace(
  note: NoteOut,
  size: Size,
  notes: NoteOut[],
  curves: Curves,
  view: View,
  lanes: Lanes,
): Place | null {
  const middle = timeToX((note.start_s + note.end_s) / 2, view, lanes);
  const heights = [note.target_midi, note.centre_midi].map((midi) => midiToY(midi, view, lanes));
  const [high, low] = [Math.min(...heights), Math.max(...heights)];
  // The note itself with its name and its handles is never covered.
  const start = timeToX(note.start_s, view, lanes);
  const own = {
    left: start - 12,
    right: Math.max(timeToX(note.end_s, view, lanes) + 12, start + NAME),
    top: high - ABOVE + 1,
    bottom: low + ABOVE - 1,
  };
  const [least, most] = [lanes.gutter + 4, lanes.width - size.width - 4];
  const inside = (x: number): number => Math.min(Math.max(x, least), most);
  const near = [middle - size.width / 2, timeToX(note.end_s, view, lanes) + ASIDE,
    timeToX(note.start_s, view, lanes) - size.width - ASIDE]; // oxfmt-ignore
  const lefts = new Set([...near.map(inside), ...steps(least, most, STEP_X)]);
  const bottom = lanes.air.top - size.height - 4;
  const tops = [low + ABOVE, high - ABOVE - size.height, ...steps(lanes.ruler + 4, bottom, STEP_Y)];
  let best: Place | null = null;
  let nearest = Infinity;
  for (const left of lefts) {
    for (const top of tops) {
      if (top <= lanes.ruler || top > bottom) continue;
      const away = Math.hypot(left + size.width / 2 - middle, top + size.height / 2 - (high + low) / 2);
      if (away >= nearest) continue;
      if (left < own.right && left + size.width > own.left && top < own.bottom && top + size.height > own.top) continue;
      if (covers({ left, top }, size, notes, curves, view, lanes)) continue;
      best = { left, top };
      nearest = away;
    }
  }
  return best;
}

function steps(from: number, to: number, step: number): number[] {
  const count = Math.max(0, Math.floor((to - from) / step));
  return Array.from({ length: count + 1 }, (_, i) => from + i * step);
}

/** Whether a box would lie over a thread, a rail or a note's name. */
export function covers(at: Place, size: Size, notes: NoteOut[], curves: Curves, view: View, lanes: Lanes): boolean {
  const corners = { x0: at.left, y0: at.top, x1: at.left + size.width, y1: at.top + size.height };
  const named = { ...corners, y1: corners.y1 + NAME_RISE };
  if (notesIn(named, notes, view, lanes).length > 0) return true;
  const frame = (x: number): number => Math.round(xToTime(x, view, lanes) / curves.hop_s);
  const first = Math.max(0, frame(corners.x0));
  const last = Math.min(curves.sung.length - 1, frame(corners.x1));
  const step = Math.max(1, Math.round(((last - first) * PIXELS_A_SAMPLE) / size.width));
  for (let i = first; i <= last; i += step) {
    for (const values of [curves.sung, curves.tuned]) {
      const y = midiToY(values[i]!, view, lanes);
      if (y > corners.y0 && y < corners.y1) return true;
    }
  }
  return false;
}
