/** Where the lines of the time axis fall. */

import { barAndBeat, beatSeconds, type MeterLike } from "../document/time_text";
import type { View } from "../document/model";

export interface GridLine {
  time_s: number;
  bar: number;
  isBar: boolean;
}

const FEWEST_PIXELS = 14;

/** Bar and, where there is room, beat lines in view; `pixelsPerSecond` decides how many. */
export function beatLines(view: View, meter: MeterLike, pixelsPerSecond: number): GridLine[] {
  const beat = beatSeconds(meter);
  let every = 1;
  if (beat * pixelsPerSecond < FEWEST_PIXELS) every = meter.beats_per_bar;
  while (every * beat * pixelsPerSecond < FEWEST_PIXELS * 3 && every >= meter.beats_per_bar) every *= 2;
  const lines: GridLine[] = [];
  const first = Math.ceil((view.start_s - meter.bar_one_s) / beat / every) * every;
  for (let index = first; meter.bar_one_s + index * beat <= view.end_s; index += every) {
    const time_s = meter.bar_one_s + index * beat;
    const { bar, beat: inBar } = barAndBeat(time_s + 1e-6, meter);
    lines.push({ time_s, bar, isBar: inBar === 1 });
  }
  return lines;
}

/** A round step in seconds that leaves at least `pixels` between labels. */
export function secondStep(pixelsPerSecond: number, pixels = 70): number {
  return [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300].find((s) => s * pixelsPerSecond >= pixels) ?? 600;
}
