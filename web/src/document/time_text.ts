/** Positions as text. */

export interface MeterLike {
  tempo: number;
  beats_per_bar: number;
  beat_unit: number;
  bar_one_s: number;
}

export function beatSeconds(meter: MeterLike): number {
  return ((60 / meter.tempo) * 4) / meter.beat_unit;
}

/** Bar and beat, from 1, at a time in seconds. */
export function barAndBeat(time_s: number, meter: MeterLike): { bar: number; beat: number } {
  const beats = (time_s - meter.bar_one_s) / beatSeconds(meter);
  const bar = Math.floor(beats / meter.beats_per_bar + 1e-9);
  return { bar: bar + 1, beat: Math.floor(beats - bar * meter.beats_per_bar + 1e-6) + 1 };
}

export function barText(time_s: number, meter: MeterLike): string {
  const { bar, beat } = barAndBeat(time_s, meter);
  return `${bar < 1 ? `−${1 - bar}` : bar}.${beat}`;
}

export function secondsText(time_s: number, digits = 2): string {
  const minutes = Math.floor(time_s / 60);
  const rest = (time_s - 60 * minutes).toFixed(digits);
  return `${minutes}:${rest.padStart(digits ? 3 + digits : 2, "0")}`;
}
