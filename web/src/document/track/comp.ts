/** What a comp says of moments and stretches; seconds of the track. */

import type { CompOut } from "../schema";
import { songToTrack, type TrackTimes } from "../time/times";

const BESIDE_S = 0.02;

export type Chosen = CompOut["choices"][number];
export type Border = CompOut["borders"][number];

export interface Stretch {
  start_s: number;
  end_s: number;
}

/** A version with its thread, in its own time. */
export interface CompRow {
  versionId: string;
  name: string;
  step_id: string;
  tuned: Float32Array;
  times: TrackTimes;
}

/** A drag under way: a stretch in a row, or a border; song seconds. */
export type CompSketch =
  | { kind: "stretch"; row: number; from_s: number; to_s: number }
  | { kind: "border"; choiceId: string; to_s: number };

/** What sounds at a moment. */
export function chosenAt(comp: Pick<CompOut, "choices">, track_s: number): Chosen | null {
  return comp.choices.findLast((choice) => choice.start_s <= track_s) ?? comp.choices[0] ?? null;
}

/** The one version that sounds throughout a stretch; null when there are several. */
export function chosenOver(comp: Pick<CompOut, "choices">, { start_s, end_s }: Stretch): string | null {
  const found = comp.choices.filter((choice) => choice.start_s < end_s && choice.end_s > start_s);
  const first = found[0]?.version_id ?? null;
  return found.every((choice) => choice.version_id === first) ? first : null;
}

/** A stretch of the song in seconds of the track, which begins at 0. */
export function inTrack({ start_s, end_s }: Stretch, times: TrackTimes): Stretch {
  return { start_s: Math.max(0, songToTrack(start_s, times)), end_s: songToTrack(end_s, times) };
}

/** The one version that sounds throughout a stretch of the song, borders at its very ends left aside. */
export function chosenHere(comp: Pick<CompOut, "choices">, here: Stretch, times: TrackTimes): string | null {
  const [start_s, end_s] = [songToTrack(here.start_s, times), songToTrack(here.end_s, times)];
  return chosenOver(comp, { start_s: start_s + BESIDE_S, end_s: end_s - BESIDE_S });
}

/** Where phrases meet: the middle of the silence between neighbours, so that a phrase is chosen with its breath. */
export function phraseStretches(phrases: readonly Stretch[], length_s: number): Stretch[] {
  const ordered = [...phrases].sort((a, b) => a.start_s - b.start_s);
  const middles = ordered.slice(1).map((next, i) => (ordered[i]!.end_s + next.start_s) / 2);
  return ordered.map((_, i) => ({ start_s: middles[i - 1] ?? 0, end_s: middles[i] ?? length_s }));
}

/** The border nearest to a moment, if it is within reach; the first choice has none. */
export function borderNear(comp: Pick<CompOut, "borders">, track_s: number, reach_s: number): Border | null {
  const near = [...comp.borders].sort((a, b) => Math.abs(a.asked_s - track_s) - Math.abs(b.asked_s - track_s))[0];
  return near && Math.abs(near.asked_s - track_s) <= reach_s ? near : null;
}

/** How a border is joined, in words. */
export function borderText({ length_ms, law, clean, cents, apart_ms }: Border): string {
  const how = law === "none" ? "same sound" : `${Math.round(length_ms)} ms, ${law}`;
  const why =
    apart_ms > 3
      ? `the two lie ${Math.round(apart_ms)} ms apart`
      : cents >= 1
        ? `${Math.round(cents)} ct apart`
        : "they do not fit";
  return clean ? how : `${how}: can be heard, ${why}`;
}
