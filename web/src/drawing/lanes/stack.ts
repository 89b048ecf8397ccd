/** The stack: every track in small on one time axis, its outline behind its notes. */

import type { InSmall, View } from "../../document/track/model";
import { type Keyed, linesAt, pitchName } from "../../document/music/pitch_names";
import type { TrackOut } from "../../document/schema";
import { pitchesOf } from "../../geometry/stack_rows";
import { layLanes, type Lanes, songToX, xToSong } from "../../geometry/viewport";
import type { Layer } from "../layer";
import { drawBars, drawRuler, type MarkedSong } from "./ruler";
import { FONT, type Theme } from "../theme";
import { fillWhole } from "../whole_pixels";

export interface StackData {
  tracks: readonly TrackOut[];
  inSmall: ReadonlyMap<string, InSmall>;
  view: View;
  song: MarkedSong & Keyed;
  /** of those that are not heard */
  silent: ReadonlySet<string>;
}

const NOTE = 4;
const SILENT_ALPHA = 0.35;

export const STACK_LAYERS: readonly Layer<StackData>[] = [
  {
    name: "rows",
    needs: (data) => [data.tracks, data.inSmall, data.view, data.song, [...data.silent].join()],
    paint: paintRows,
  },
];

export const STACK_RULER: readonly Layer<StackData>[] = [
  {
    name: "ruler",
    needs: (data) => [data.view, data.song],
    paint: (ctx, width, height, data, theme) => drawRuler(ctx, rulerLanes(width, height), data, theme),
  },
];

function rulerLanes(width: number, height: number): Lanes {
  return { ...layLanes(width, height), height, ruler: height };
}

/** Lanes of the rows, whose ruler is apart. */
function rowLanes(width: number, height: number): Lanes {
  return { ...layLanes(width, height), ruler: 0 };
}

function paintRows(ctx: CanvasRenderingContext2D, width: number, height: number, data: StackData, theme: Theme): void {
  const lanes = rowLanes(width, height);
  ctx.fillStyle = theme.sheet;
  ctx.fillRect(0, 0, width, height);
  drawBars(ctx, lanes, data, theme);
  const row = height / Math.max(1, data.tracks.length);
  data.tracks.forEach((track, i) => {
    const small = data.inSmall.get(track.id);
    const top = i * row;
    ctx.globalAlpha = data.silent.has(track.id) ? SILENT_ALPHA : 1;
    if (small) {
      drawLevels(ctx, lanes, [top, row], track.offset_s, small, data.view, theme);
      if (track.role !== "backing") drawNotes(ctx, lanes, [top, row], track.offset_s, small, data, theme);
    }
    ctx.globalAlpha = 1;
    ctx.fillStyle = theme.line;
    ctx.fillRect(0, top + row - 1, width, 1);
  });
  ctx.fillStyle = theme.lineStrong;
  ctx.fillRect(lanes.gutter - 0.5, 0, 1, height);
}

function drawLevels(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  [top, row]: readonly [number, number],
  offset_s: number,
  small: InSmall,
  view: View,
  theme: Theme,
): void {
  ctx.fillStyle = theme.wave;
  const placeAt = (x: number): number => (xToSong(x, view, lanes) - offset_s) / small.outline_s;
  const middle = top + row / 2;
  const scale = (row / 2 - 6) / 127;
  for (let x = lanes.gutter; x < lanes.width; x++) {
    const from = Math.floor(placeAt(x));
    const to = Math.max(from + 1, Math.floor(placeAt(x + 1)));
    if (to <= 0 || from >= small.outline.length) continue;
    let level = 0;
    for (let i = Math.max(0, from); i < Math.min(to, small.outline.length); i++)
      level = Math.max(level, small.outline[i]!);
    fillWhole(ctx, x, middle - level * scale, 1, Math.max(1, 2 * level * scale));
  }
}

function drawNotes(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  [top, row]: readonly [number, number],
  offset_s: number,
  small: InSmall,
  { view, song }: StackData,
  theme: Theme,
): void {
  const [low, high] = pitchesOf(small.notes);
  const yOf = (midi: number): number => top + 8 + ((high - midi) / (high - low)) * (row - 16);
  ctx.fillStyle = theme.tuned;
  for (const note of small.notes) {
    const from = Math.max(lanes.gutter, songToX(note.start_s + offset_s, view, lanes));
    const to = Math.min(lanes.width, songToX(note.end_s + offset_s, view, lanes));
    if (to > from) fillWhole(ctx, from, yOf(note.midi) - NOTE / 2, Math.max(2, to - from - 1), NOTE);
  }
  if (small.notes.length === 0) return;
  ctx.font = `11px ${FONT}`;
  ctx.textBaseline = "middle";
  ctx.fillStyle = theme.muted;
  const sung = small.notes.map((note) => note.midi);
  const lines = linesAt(song, view.start_s);
  for (const midi of new Set([Math.min(...sung), Math.max(...sung)]))
    ctx.fillText(pitchName(midi, lines), 12, yOf(midi));
}
