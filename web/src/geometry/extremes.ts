/** Lowest and highest value of any stretch of a curve, from blocks that are worked out once a curve. */

const BLOCK = 16;

export interface Extremes {
  /** NaN where a block has no value */
  low: Float32Array;
  high: Float32Array;
}

const known = new WeakMap<Float32Array, Extremes>();

/** Extremes of every block of 16 values; NaN values are skipped. */
export function extremesOf(values: Float32Array): Extremes {
  const kept = known.get(values);
  if (kept) return kept;
  const blocks = Math.ceil(values.length / BLOCK);
  const made = { low: new Float32Array(blocks).fill(Number.NaN), high: new Float32Array(blocks).fill(Number.NaN) };
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!;
    if (Number.isNaN(value)) continue;
    const block = i >> 4;
    if (!(value >= made.low[block]!)) made.low[block] = value;
    if (!(value <= made.high[block]!)) made.high[block] = value;
  }
  known.set(values, made);
  return made;
}

const between: [number, number] = [Number.NaN, Number.NaN];

/** Lowest and highest of `values[from, to)`, NaN when there is none; the same array every time, to be read at once. */
export function extremesIn(values: Float32Array, from: number, to: number): readonly [number, number] {
  let low = Number.NaN;
  let high = Number.NaN;
  const { low: lows, high: highs } = extremesOf(values);
  let i = from;
  while (i < to) {
    let least: number;
    let most: number;
    if (i % BLOCK === 0 && i + BLOCK <= to) {
      least = lows[i >> 4]!;
      most = highs[i >> 4]!;
      i += BLOCK;
    } else {
      least = most = values[i]!;
      i += 1;
    }
    if (!(least >= low)) low = Number.isNaN(least) ? low : least;
    if (!(most <= high)) high = Number.isNaN(most) ? high : most;
  }
  between[0] = low;
  between[1] = high;
  return between;
}
