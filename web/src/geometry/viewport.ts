/** Seconds and semitones to pixels and back. */

import { type LaneSizes, USUAL_LANES, type View } from "../document/track/model";
import { songToSource, sourceToSong } from "../document/time/times";

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

const RULER = 32;
const GUTTER = 58;
const LEAST_PITCH = 80;
const LEVEL_SHARE = 0.11;
/** How high a lane may be made. */
export const LANE_RANGES = { air: [34, 220], level: [44, 320] } as const;

/** Divide a sheet of this size into ruler and lanes; the pitch lane has what air and level leave. */
export function layLanes(width: number, height: number, sizes: LaneSizes = USUAL_LANES): Lanes {
  const room = Math.max(0, height - RULER - LEAST_PITCH);
  const air = Math.min(sizes.air, Math.max(LANE_RANGES.air[0], room / 2));
  const usual = Math.max(56, Math.round(height * LEVEL_SHARE));
  const level = sizes.level === null ? usual : Math.min(sizes.level, Math.max(LANE_RANGES.level[0], room - air));
  const pitch = Math.max(LEAST_PITCH, height - RULER - air - level);
  return {
    width,
    height,
    gutter: GUTTER,
    ruler: RULER,
    pitch: { top: RULER, height: pitch },
    air: { top: RULER + pitch, height: air },
    level: { top: RULER + pitch + air, height: level },
  };
}

/** Lanes of which one has a new height; what it gains or loses, the pitch lane gives or gets. */
export function withLane(sizes: LaneSizes, lane: "air" | "level", height: number): LaneSizes {
  const [least, most] = LANE_RANGES[lane];
  return { ...sizes, [lane]: Math.round(Math.min(Math.max(height, least), most)) };
}

export function songToX(song_s: number, view: View, lanes: Lanes): number {
  return lanes.gutter + ((song_s - view.start_s) / (view.end_s - view.start_s)) * (lanes.width - lanes.gutter);
}

export function xToSong(x: number, view: View, lanes: Lanes): number {
  return view.start_s + ((x - lanes.gutter) / (lanes.width - lanes.gutter)) * (view.end_s - view.start_s);
}

/** How much song time a pixel stands for. */
export function secondsPerPixel(view: View, lanes: Lanes): number {
  return (view.end_s - view.start_s) / (lanes.width - lanes.gutter);
}

/** Where a moment of the recording lies. */
export function timeToX(source_s: number, view: View, lanes: Lanes): number {
  return songToX(sourceToSong(source_s, view.times), view, lanes);
}

/** The moment of the recording at a pixel. */
export function xToTime(x: number, view: View, lanes: Lanes): number {
  return songToSource(xToSong(x, view, lanes), view.times);
}

/** The stretch of the recording that is in view. */
export function sourceSpan(view: View): [number, number] {
  return [songToSource(view.start_s, view.times), songToSource(view.end_s, view.times)];
}

/** Half-open range of analysis frames in view. */
export function framesInView(view: View, hop_s: number, frames: number): [number, number] {
  const [start_s, end_s] = sourceSpan(view);
  return [Math.max(0, Math.floor(start_s / hop_s)), Math.min(frames, Math.ceil(end_s / hop_s) + 1)];
}

export function midiToY(midi: number, view: View, lanes: Lanes): number {
  return lanes.pitch.top + ((view.high - midi) / (view.high - view.low)) * lanes.pitch.height;
}

export function yToMidi(y: number, view: View, lanes: Lanes): number {
  return view.high - ((y - lanes.pitch.top) / lanes.pitch.height) * (view.high - view.low);
}

const SHORTEST_S = 0.4;
const FEWEST_SEMITONES = 3;

/** A view kept around the recording and between sensible sizes. */
export function clampView(view: View, duration_s: number): View {
  return clampTo(view, sourceToSong(0, view.times), sourceToSong(duration_s, view.times));
}

/** A view kept around a stretch of the song and between sensible sizes. */
export function clampTo(view: View, from_s: number, to_s: number): View {
  const [first, last] = [from_s - 1, to_s + 1];
  const length = Math.min(Math.max(view.end_s - view.start_s, SHORTEST_S), last - first);
  const start_s = Math.min(Math.max(view.start_s, first), Math.max(first, last - length));
  const span = Math.min(Math.max(view.high - view.low, FEWEST_SEMITONES), 90);
  const low = Math.min(Math.max(view.low, 12), 120 - span);
  return { ...view, start_s, end_s: start_s + length, low, high: low + span };
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

/** How far a turn of the wheel zooms. */
export function wheelZoom(event: Pick<WheelEvent, "deltaY">): number {
  return Math.exp(Math.max(-60, Math.min(60, event.deltaY)) * 0.006);
}

/** A view after a turn of the wheel along time: with Ctrl it zooms about a moment, else it goes along. */
export function wheelTime(view: View, lanes: Lanes, at_s: number, event: WheelTurn): View {
  if (event.ctrlKey || event.metaKey) return zoomTime(view, at_s, wheelZoom(event));
  const along = Math.abs(event.deltaX) > Math.abs(event.deltaY) ? event.deltaX : event.deltaY;
  return panTime(view, along * secondsPerPixel(view, lanes));
}

type WheelTurn = Pick<WheelEvent, "deltaX" | "deltaY" | "ctrlKey" | "metaKey">;

export function panPitch(view: View, by: number): View {
  return { ...view, low: view.low + by, high: view.high + by };
}

/** A view that holds a stretch of the recording and the pitches sung in it, with room around. */
export function fitStretch(start_s: number, end_s: number, pitches: number[], current: View): View {
  const pad = Math.max(0.3, (end_s - start_s) * 0.06);
  const low = pitches.length ? Math.min(...pitches) - 2.5 : current.low;
  const high = pitches.length ? Math.max(...pitches) + 2.5 : current.high;
  const [from, to] = [sourceToSong(start_s, current.times), sourceToSong(end_s, current.times)];
  return { ...current, start_s: from - pad, end_s: to + pad, low, high };
}

/** The view moved along the song so that a stretch of the recording is in sight, a fifth from the left. */
export function bringIn(view: View, start_s: number, end_s: number): View {
  const [from, to] = sourceSpan(view);
  if (start_s >= from && end_s <= to) return view;
  const length = view.end_s - view.start_s;
  const at = sourceToSong(start_s, view.times) - length * 0.2;
  return { ...view, start_s: at, end_s: at + length };
}

const PITCH_EDGE = 1.5; // semitones kept free over and under what is sung

/** The view moved up or down by the least that has these pitches in sight, and wider only where they do not fit. */
export function holdPitches(view: View, pitches: readonly number[]): View {
  if (pitches.length === 0) return view;
  const [low, high] = [Math.min(...pitches) - PITCH_EDGE, Math.max(...pitches) + PITCH_EDGE];
  const span = view.high - view.low;
  if (high - low >= span) return { ...view, low, high };
  const by = low < view.low ? low - view.low : Math.max(0, high - view.high);
  return by === 0 ? view : { ...view, low: view.low + by, high: view.high + by };
}
