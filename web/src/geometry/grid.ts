/** Where the lines of the time axis fall. */

import { type Meter, type MeterLike, metersOf } from "../document/music/tempo_map";
import type { View } from "../document/track/model";

export interface GridLine {
  time_s: number;
  bar: number;
  isBar: boolean;
}

const FEWEST_PIXELS = 14;

/** Bar and, where there is room, beat lines in view; `pixelsPerSecond` decides how many. */
export function beatLines(view: View, song: MeterLike, pixelsPerSecond: number): GridLine[] {
  const meters = metersOf(song);
  return meters.flatMap((meter, i) => {
    const from = i === 0 ? view.start_s : Math.max(view.start_s, meter.start_s);
    const to = Math.min(view.end_s, (meters[i + 1]?.start_s ?? Infinity) - 1e-6);
    return from <= to ? linesOf(meter, from, to, pixelsPerSecond) : [];
  });
}

/** Lines of one meter: every beat, every bar, or every second, fourth … bar. */
function linesOf(meter: Meter, from: number, to: number, pixelsPerSecond: number): GridLine[] {
  const { beat_s, beats_per_bar } = meter;
  let every = 1;
  if (beat_s * pixelsPerSecond < FEWEST_PIXELS) every = beats_per_bar;
  while (every * beat_s * pixelsPerSecond < FEWEST_PIXELS * 3 && every >= beats_per_bar) every *= 2;
  const bar_s = meter.start_s - meter.passed * beat_s;
  const lines: GridLine[] = [];
  for (
    let beat = Math.ceil((from - bar_s) / beat_s / every - 1e-9) * every;
    bar_s + beat * beat_s <= to;
    beat += every
  ) {
    const bars = Math.floor(beat / beats_per_bar);
    lines.push({ time_s: bar_s + beat * beat_s, bar: meter.bar + bars, isBar: beat === bars * beats_per_bar });
  }
  return lines;
}

/** A round step in seconds that leaves at least `pixels` between labels. */
export function secondStep(pixelsPerSecond: number, pixels = 70): number {
  return [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300].find((s) => s * pixelsPerSecond >= pixels) ?? 600;
}
