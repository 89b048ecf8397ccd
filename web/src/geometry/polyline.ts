/** Curves as points or, when many frames share a pixel, as one bar a pixel column. */

import { extremesIn } from "./extremes";

export interface Column {
  x: number;
  top: number;
  bottom: number;
}

/** Frames of every column of pixels in [left, right) that has any, where `frameAt` gives the frame at a pixel's edge. */
export function eachColumn(
  [left, right]: readonly [number, number],
  frames: number,
  frameAt: (x: number) => number,
  visit: (x: number, from: number, to: number) => void,
): void {
  let from = Math.max(0, Math.ceil(frameAt(left)));
  for (let x = left; x < right && from < frames; x++) {
    const to = Math.min(frames, Math.ceil(frameAt(x + 1)));
    if (to <= from) continue;
    visit(x, from, to);
    from = to;
  }
}

/**
 * One lowest-to-highest bar of `values` per column of pixels that has any; each reaches to where the next one begins, so
 * that a steep curve has no holes.
 */
export function columns(
  values: Float32Array,
  span: readonly [number, number],
  frameAt: (x: number) => number,
  yOf: (value: number) => number,
): Column[] {
  const found: Column[] = [];
  eachColumn(span, values.length, frameAt, (x, from, to) => {
    const [low, high] = extremesIn(values, from, Math.min(to + 1, values.length));
    if (!Number.isNaN(low) && from < to) found.push({ x, top: yOf(high), bottom: yOf(low) });
  });
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
