/** Where air events and levels lie on the sheet. */

import type { AirOut, NoteOut, View } from "../document/track/model";
import { type Lanes, timeToX, xToTime } from "./viewport";

const LOWEST_DB = -66;
const RANGE_DB = 62;
const EDGE_PX = 5;
const WIDE_ENOUGH_PX = 12;

/** Pixels that a level in dBFS is high in the air lane. */
export function airHeight(level_db: number, lanes: Lanes): number {
  return Math.min(1, Math.max(0.05, (level_db - LOWEST_DB) / RANGE_DB)) * (lanes.air.height - 20);
}

export interface AirHit {
  event: AirOut;
  side: "start" | "end" | null;
}

/** The event under a point of the air lane; near an edge also which. */
export function airAt(x: number, air: AirOut[], view: View, lanes: Lanes): AirHit | null {
  let best: AirHit | null = null;
  for (const event of air) {
    const a = timeToX(event.start_s, view, lanes);
    const b = timeToX(event.end_s, view, lanes);
    const wide = b - a > WIDE_ENOUGH_PX;
    if (x < a - EDGE_PX || x > b + EDGE_PX) continue;
    const nearStart = Math.abs(x - a) <= EDGE_PX && (wide || x < a);
    const nearEnd = Math.abs(x - b) <= EDGE_PX && (wide || x > b);
    const inside = x >= a && x <= b;
    const side = nearStart ? "start" : nearEnd ? "end" : null;
    if (inside || (side && !best)) best = { event, side };
    if (inside) break;
  }
  return best;
}

/** The note whose stretch of the level lane lies under a point. */
export function levelNoteAt(x: number, notes: NoteOut[], view: View, lanes: Lanes): NoteOut | null {
  const time = xToTime(x, view, lanes);
  return notes.find((note) => time >= note.start_s && time < note.end_s) ?? null;
}
