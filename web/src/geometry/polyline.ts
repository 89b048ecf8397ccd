/** Curves as points or, when many frames share a pixel, as one bar a pixel column. */

import { extremesIn } from "./extremes";

export interface Column {
  x: number;
  top: number;
  bottom: number;
}

/** One lowest-to-highest bar per pixel column of `values`, where `frameAt` gives the frame at a pixel's left edge. */
export function columns(
  values: Float32Array,
  [left, right]: [number, number],
  frameAt: (x: number) => number,
  yOf: (value: number) => number,
): Column[] {
  const found: Column[] = [];
  let from = Math.max(0, Math.ceil(frameAt(left)));
  for (let x = left; x < right && from < values.length; x++) {
    const to = Math.min(values.length, Math.max(from, Math.ceil(frameAt(x + 1))));
    const [low, high] = extremesIn(values, from, to);
    if (!Number.isNaN(low)) found.push({ x, top: yOf(high), bottom: yOf(low) });
    from = to;
  }
  return found;
}

/** Runs of neighbouring finite frames within [from, to), half-open. */
export function voicedRuns(values: Float32Array, from: number, to: number): [number, number][] {
  const found: [number, number][] = [];
  let start = -1;
  for (let frame = from; frame <= to; frame++) {
    const voiced = frame < to && !Number.isNaN(values[frame]!);
    if (voiced && start < 0) start = frame;
    if (!voiced && start >= 0) {
      found.push([start, frame]);
      start = -1;
    }
  }
  return found;
}
