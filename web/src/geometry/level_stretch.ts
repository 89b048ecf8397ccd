/** Where level stretches lie on the sheet. */

import type { LevelStretchOut, View } from "../document/track/model";
import { type Lanes, timeToX } from "./viewport";

/** Height of the cap by which a stretch is taken. */
export const STRETCH_CAP_PX = 13;
const EDGE_PX = 5;

export interface StretchHit {
  stretch: LevelStretchOut;
  part: "start" | "end" | "cap";
}

/** What of a level stretch lies under a point: its cap, or one of its edges over the height of the lane. */
export function stretchUnder(
  x: number,
  y: number,
  stretches: readonly LevelStretchOut[],
  view: View,
  lanes: Lanes,
): StretchHit | null {
  if (y < lanes.level.top) return null;
  for (const stretch of stretches) {
    const [a, b] = [timeToX(stretch.start_s, view, lanes), timeToX(stretch.end_s, view, lanes)];
    const reach = Math.min(EDGE_PX, (b - a) / 3);
    if (Math.abs(x - a) <= reach) return { stretch, part: "start" };
    if (Math.abs(x - b) <= reach) return { stretch, part: "end" };
    if (x > a && x < b && y <= lanes.level.top + 3 + STRETCH_CAP_PX) return { stretch, part: "cap" };
  }
  return null;
}
