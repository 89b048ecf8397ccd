/** Positions as text. */

import { meterAt, type MeterLike, placeOf } from "../music/tempo_map";

export type { MeterLike };

/** Share of a beat before it that counts as on it: times are kept to a microsecond. */
const ON_THE_BEAT = 1e-4;

/** Bar and beat, from 1, at a time in seconds, and how many seconds of the beat are over. */
export function barAndBeat(time_s: number, song: MeterLike): { bar: number; beat: number; since_s: number } {
  const meter = meterAt(time_s, song);
  const exact = (time_s - meter.start_s) / meter.beat_s + meter.passed;
  const beats = Math.floor(exact + ON_THE_BEAT);
  const bar = Math.floor(beats / meter.beats_per_bar);
  return { bar: meter.bar + bar, beat: beats - bar * meter.beats_per_bar + 1, since_s: (exact - beats) * meter.beat_s };
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
export function beatText(time_s: number, song: MeterLike): string {
  const ms = Math.round(1000 * barAndBeat(time_s, song).since_s);
  return `${barText(time_s, song)}${ms > 0 ? ` +${ms} ms` : ""}`;
}

/** Milliseconds with their sign, for example “+35 ms”. */
export function shiftText(ms: number): string {
  return `${ms < 0 ? "−" : "+"}${Math.abs(Math.round(ms))} ms`;
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
  const ms = bars[4] === undefined ? 0 : Number(bars[4]) * (bars[3] === "-" ? -1 : 1);
  const number = Number(bars[1]);
  const place = placeOf(number < 0 ? number + 1 : number, beat, meter); // the bar before bar 1 is called −1
  return beat < 1 || beat > meterAt(place, meter).beats_per_bar ? null : place + ms / 1000;
}
