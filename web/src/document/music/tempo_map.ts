/** Where the bars and beats of a song lie, also when its tempo and meter change.  The twin of the core's `beats`. */

export interface TempoChange {
  bar: number;
  beat?: number;
  tempo: number;
  beats_per_bar: number;
  beat_unit: number;
}

export interface MeterLike {
  tempo: number;
  beats_per_bar: number;
  beat_unit: number;
  bar_one_s: number;
  tempo_changes?: readonly TempoChange[];
}

/** Tempo and meter from a moment on, at which `passed` beats of bar `bar` are over. */
export interface Meter {
  start_s: number;
  beat_s: number;
  beats_per_bar: number;
  bar: number;
  passed: number;
}

const beatOf = (tempo: number, beat_unit: number): number => ((60 / tempo) * 4) / beat_unit;
const known = new WeakMap<MeterLike, Meter[]>();

/** The meters of a song in order of time; the first also holds before it. */
export function metersOf(song: MeterLike): Meter[] {
  const before = known.get(song);
  if (before) return before;
  const { tempo, beats_per_bar, beat_unit, bar_one_s } = song;
  const meters: Meter[] = [{ start_s: bar_one_s, beat_s: beatOf(tempo, beat_unit), beats_per_bar, bar: 1, passed: 0 }];
  for (const change of song.tempo_changes ?? []) {
    const last = meters.at(-1)!;
    const passed = (change.beat ?? 1) - 1;
    const beats = (change.bar - last.bar) * last.beats_per_bar + passed - last.passed;
    meters.push({
      start_s: last.start_s + beats * last.beat_s,
      beat_s: beatOf(change.tempo, change.beat_unit),
      beats_per_bar: change.beats_per_bar,
      bar: change.bar,
      passed,
    });
  }
  known.set(song, meters);
  return meters;
}

/** The meter that holds at a moment of the song. */
export function meterAt(time_s: number, song: MeterLike): Meter {
  const meters = metersOf(song);
  return meters.findLast((meter) => meter.start_s <= time_s + 1e-6) ?? meters[0]!;
}

/** Where a beat of a bar lies, both counted from 1. */
export function placeOf(bar: number, beat: number, song: MeterLike): number {
  const meters = metersOf(song);
  const after = (meter: Meter): boolean => meter.bar < bar || (meter.bar === bar && meter.passed <= beat - 1);
  const meter = meters.findLast(after) ?? meters[0]!;
  return meter.start_s + ((bar - meter.bar) * meter.beats_per_bar + beat - 1 - meter.passed) * meter.beat_s;
}
