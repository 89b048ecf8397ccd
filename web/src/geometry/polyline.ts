/** Curves as points or, when many frames share a pixel, as one bar a pixel column. */

export interface Column {
  x: number;
  top: number;
  bottom: number;
}

/** One lowest-to-highest bar per pixel column of `values` over frames [from, to); NaN frames are skipped. */
export function columns(
  values: Float32Array,
  from: number,
  to: number,
  xOf: (frame: number) => number,
  yOf: (value: number) => number,
): Column[] {
  const found: Column[] = [];
  let current: Column | null = null;
  for (let frame = from; frame < to; frame++) {
    const value = values[frame]!;
    if (Number.isNaN(value)) continue;
    const x = Math.floor(xOf(frame));
    const y = yOf(value);
    if (current && current.x === x) {
      current.top = Math.min(current.top, y);
      current.bottom = Math.max(current.bottom, y);
    } else {
      current = { x, top: y, bottom: y };
      found.push(current);
    }
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
