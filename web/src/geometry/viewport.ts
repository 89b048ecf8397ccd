/** Seconds and semitones to pixels and back. */

import type { View } from "../document/model";

export interface Lanes {
  width: number;
  height: number;
  /** left edge of the time axis, after the pitch names */
  gutter: number;
  ruler: number;
  pitch: { top: number; height: number };
  air: { top: number; height: number };
  level: { top: number; height: number };
}

const RULER = 34;
const AIR = 66;
const GUTTER = 58;

/** Divide a sheet of this size into ruler and lanes. */
export function layLanes(width: number, height: number): Lanes {
  const level = Math.max(70, Math.round(height * 0.16));
  const pitch = Math.max(80, height - RULER - AIR - level);
  return {
    width,
    height,
    gutter: GUTTER,
    ruler: RULER,
    pitch: { top: RULER, height: pitch },
    air: { top: RULER + pitch, height: AIR },
    level: { top: RULER + pitch + AIR, height: level },
  };
}

export function timeToX(time_s: number, view: View, lanes: Lanes): number {
  return lanes.gutter + ((time_s - view.start_s) / (view.end_s - view.start_s)) * (lanes.width - lanes.gutter);
}

export function xToTime(x: number, view: View, lanes: Lanes): number {
  return view.start_s + ((x - lanes.gutter) / (lanes.width - lanes.gutter)) * (view.end_s - view.start_s);
}

export function midiToY(midi: number, view: View, lanes: Lanes): number {
  return lanes.pitch.top + ((view.high - midi) / (view.high - view.low)) * lanes.pitch.height;
}

export function yToMidi(y: number, view: View, lanes: Lanes): number {
  return view.high - ((y - lanes.pitch.top) / lanes.pitch.height) * (view.high - view.low);
}

const SHORTEST_S = 0.4;
const FEWEST_SEMITONES = 3;

/** A view kept within the song and between sensible sizes. */
export function clampView(view: View, duration_s: number): View {
  const length = Math.min(Math.max(view.end_s - view.start_s, SHORTEST_S), duration_s + 2);
  const start_s = Math.min(Math.max(view.start_s, -1), Math.max(-1, duration_s + 1 - length));
  const span = Math.min(Math.max(view.high - view.low, FEWEST_SEMITONES), 90);
  const low = Math.min(Math.max(view.low, 12), 120 - span);
  return { start_s, end_s: start_s + length, low, high: low + span };
}

export function zoomTime(view: View, at_s: number, factor: number): View {
  return { ...view, start_s: at_s + (view.start_s - at_s) * factor, end_s: at_s + (view.end_s - at_s) * factor };
}

export function zoomPitch(view: View, at: number, factor: number): View {
  return { ...view, low: at + (view.low - at) * factor, high: at + (view.high - at) * factor };
}

export function panTime(view: View, by_s: number): View {
  return { ...view, start_s: view.start_s + by_s, end_s: view.end_s + by_s };
}

export function panPitch(view: View, by: number): View {
  return { ...view, low: view.low + by, high: view.high + by };
}

/** A view that holds a stretch of time and the pitches sung in it, with room around. */
export function fitStretch(start_s: number, end_s: number, pitches: number[], current: View): View {
  const pad = Math.max(0.3, (end_s - start_s) * 0.06);
  const low = pitches.length ? Math.min(...pitches) - 2.5 : current.low;
  const high = pitches.length ? Math.max(...pitches) + 2.5 : current.high;
  return { start_s: start_s - pad, end_s: end_s + pad, low, high };
}
