/** The tempo of a hand that taps along. */

export const FEWEST_TAPS = 4;
/** A pause of so many beats begins anew. */
const PAUSE_BEATS = 3;

export interface Tapped {
  bpm: number;
  /** the moment of the first tap as the straight line through all taps has it, in the taps' own clock, seconds */
  first_s: number;
}

/** Taps that belong together: those since the last long pause. */
export function tapsSincePause(taps_s: readonly number[]): number[] {
  const gaps = taps_s.slice(1).map((tap, i) => tap - taps_s[i]!);
  const usual = median(gaps);
  const pause = gaps.findLastIndex((gap) => gap > PAUSE_BEATS * usual);
  return taps_s.slice(pause + 1);
}

/** Tempo from a straight line through the taps, a tap left out counting as its beat; null while there are too few. */
export function tempoOfTaps(taps_s: readonly number[]): Tapped | null {
  const taps = tapsSincePause(taps_s);
  if (taps.length < FEWEST_TAPS) return null;
  const beat = median(taps.slice(1).map((tap, i) => tap - taps[i]!));
  if (!(beat > 0)) return null;
  let count = 0;
  const beats = taps.map((tap, i) => (count += i === 0 ? 0 : Math.max(1, Math.round((tap - taps[i - 1]!) / beat))));
  const [meanBeat, meanTap] = [mean(beats), mean(taps)];
  const spread = beats.reduce((sum, b) => sum + (b - meanBeat) ** 2, 0);
  const slope = beats.reduce((sum, b, i) => sum + (b - meanBeat) * (taps[i]! - meanTap), 0) / spread;
  return { bpm: 60 / slope, first_s: meanTap - slope * meanBeat };
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}

function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 ? sorted[middle]! : ((sorted[middle - 1] ?? 0) + (sorted[middle] ?? 0)) / 2;
}
