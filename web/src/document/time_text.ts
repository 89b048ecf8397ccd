/** Positions as text. */

export interface MeterLike {
  tempo: number;
  beats_per_bar: number;
  beat_unit: number;
  bar_one_s: number;
}

/** Share of a beat before it that counts as on it: times are kept to a microsecond. */
const ON_THE_BEAT = 1e-4;

export function beatSeconds(meter: MeterLike): number {
  return ((60 / meter.tempo) * 4) / meter.beat_unit;
}

/** Bar and beat, from 1, at a time in seconds. */
export function barAndBeat(time_s: number, meter: MeterLike): { bar: number; beat: number } {
  const beats = (time_s - meter.bar_one_s) / beatSeconds(meter) + ON_THE_BEAT;
  const bar = Math.floor(beats / meter.beats_per_bar);
  return { bar: bar + 1, beat: Math.floor(beats - bar * meter.beats_per_bar) + 1 };
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

/** A moment as bar and beat and how long after it, for example “12.3 +35 ms”. */
export function beatText(time_s: number, meter: MeterLike): string {
  const beat = beatSeconds(meter);
  const since = (time_s - meter.bar_one_s) / beat;
  const ms = Math.round(1000 * beat * (since - Math.floor(since + ON_THE_BEAT)));
  return `${barText(time_s, meter)}${ms > 0 ? ` +${ms} ms` : ""}`;
}

/** A typed moment in song seconds: “1:04.25”, “64.25 s”, or with a meter “12.3” (bar and beat) and “12.3 +35”. */
export function readMoment(typed: string, meter: MeterLike | null): number | null {
  const text = typed.trim().replaceAll("−", "-").replace(",", ".");
  const clock = /^(\d+):(\d{1,2}(?:\.\d+)?)$/.exec(text);
  if (clock) return 60 * Number(clock[1]) + Number(clock[2]);
  const seconds = /^(\d+(?:\.\d+)?)\s*s$/i.exec(text);
  if (seconds) return Number(seconds[1]);
  if (!meter) return /^\d+(?:\.\d+)?$/.test(text) ? Number(text) : null;
  const bars = /^(-?\d+)(?:\.(\d+))?(?:\s*([+-])\s*(\d+(?:\.\d+)?)\s*(?:ms)?)?$/i.exec(text);
  if (!bars) return null;
  const beat = bars[2] === undefined ? 1 : Number(bars[2]);
  if (beat < 1 || beat > meter.beats_per_bar) return null;
  const ms = bars[4] === undefined ? 0 : Number(bars[4]) * (bars[3] === "-" ? -1 : 1);
  const bar = Number(bars[1]) - 1;
  return meter.bar_one_s + (bar * meter.beats_per_bar + beat - 1) * beatSeconds(meter) + ms / 1000;
}
