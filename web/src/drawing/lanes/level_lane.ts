/** Level lane: the outline of the sound, the loudness contour, and one step per note. */

import { amplitudeOf } from "../../document/music/levels";
import type { Curves, GapOut } from "../../document/track/model";
import { signed } from "../../document/music/pitch_names";
import { extremesIn } from "../../geometry/extremes";
import { eachColumn } from "../../geometry/polyline";
import { framesInView, type Lanes, timeToX, xToTime } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";
import { fillWhole } from "../whole_pixels";
import { drawLevelStretches } from "./level_stretch";

const LOWEST_DB = -54;

function heightOf(lanes: Lanes): (db: number) => number {
  const { top, height } = lanes.level;
  return (db) => top + 3 + (Math.min(0, Math.max(LOWEST_DB, db)) / LOWEST_DB) * (height - 6);
}

/** Name and lines of the lane. */
export function drawLevelFrame(ctx: CanvasRenderingContext2D, lanes: Lanes, theme: Theme): void {
  const { top } = lanes.level;
  const yOf = heightOf(lanes);
  ctx.fillStyle = theme.lineStrong;
  ctx.fillRect(0, top, lanes.width, 1);
  ctx.textBaseline = "middle";
  ctx.fillStyle = theme.muted;
  ctx.font = `600 12px ${FONT}`;
  ctx.fillText("Level", 10, top + 11);
  ctx.font = `10.5px ${FONT}`;
  for (const db of [-24, -36, -48]) {
    ctx.fillStyle = theme.line;
    ctx.fillRect(lanes.gutter, Math.round(yOf(db)), lanes.width, 1);
    ctx.fillStyle = theme.muted;
    ctx.fillText(`−${-db}`, lanes.gutter - 22, Math.max(yOf(db), top + 26));
  }
}

export function drawLevelLane(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { top, height } = lanes.level;
  const yOf = heightOf(lanes);
  ctx.textBaseline = "middle";
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, top, lanes.width - lanes.gutter, height);
  ctx.clip();
  for (const gap of data.gaps) drawGap(ctx, lanes, data, theme, gap);
  drawLevelStretches(ctx, lanes, data, theme);
  drawWave(ctx, lanes, data, theme);
  drawContour(ctx, lanes, data, theme, yOf);
  for (const note of data.notes) {
    const x = timeToX(note.start_s, data.view, lanes);
    const end = timeToX(note.end_s, data.view, lanes);
    if (end < lanes.gutter || x > lanes.width) continue;
    const dragged = data.sketch?.kind === "level" && data.sketch.of === "note" && data.sketch.ids.includes(note.id);
    const by = dragged && data.sketch?.kind === "level" ? data.sketch.db : 0;
    const change = Math.min(12, Math.max(-24, note.gesture.level_db + by));
    ctx.fillStyle = theme.rail;
    if (change !== 0) fillWhole(ctx, x, yOf(note.level_db), end - x - 1, 1);
    ctx.fillStyle = data.selection.has(note.id) ? theme.select : change !== 0 ? theme.tuned : theme.rail;
    fillWhole(ctx, x, yOf(note.level_db + change) - 1, end - x - 1, 2);
    if (change === 0 && !dragged) continue;
    ctx.font = `${dragged ? 650 : 450} 11px ${FONT}`;
    ctx.fillText(
      `${signed(change, 1)}${dragged ? " dB" : ""}`,
      Math.max(x, lanes.gutter) + 3,
      yOf(note.level_db + change) - 9,
    );
  }
  ctx.restore();
}

/** A cleared gap: an empty frame with what was done to it. */
function drawGap(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme, gap: GapOut): void {
  const x = timeToX(gap.start_s, data.view, lanes);
  const width = timeToX(gap.end_s, data.view, lanes) - x;
  if (x > lanes.width || x + width < lanes.gutter) return;
  const { top, height } = lanes.level;
  ctx.fillStyle = theme.band;
  ctx.fillRect(x, top + 2, width, height - 3);
  ctx.strokeStyle = theme.tuned;
  ctx.lineWidth = 1;
  ctx.setLineDash([2, 3]);
  ctx.strokeRect(x + 0.5, top + 2.5, width - 1, height - 5);
  ctx.setLineDash([]);
  if (width < 60) return;
  ctx.fillStyle = theme.tuned;
  ctx.font = `11px ${FONT}`;
  ctx.fillText(gap.muted ? "cleared" : `${signed(gap.level_db)} dB`, Math.max(x, lanes.gutter) + 5, top + 11);
}

/** Lowest and highest sample of every frame as it will sound, by the waveform and the change of level it is of. */
const heard = new WeakMap<Float32Array, { of: Int8Array; low: Float32Array; high: Float32Array }>();

function heardWave({ waveform, levelChange }: Curves): { low: Float32Array; high: Float32Array } {
  const known = heard.get(levelChange);
  if (known?.of === waveform) return known;
  const frames = waveform.length / 2;
  const made = { of: waveform, low: new Float32Array(frames), high: new Float32Array(frames) };
  for (let i = 0; i < frames; i++) {
    const change = i < levelChange.length ? levelChange[i]! : 0;
    const gain = change === 0 ? 1 : amplitudeOf(change);
    made.low[i] = Math.max(-127, gain * waveform[2 * i]!);
    made.high[i] = Math.min(127, gain * waveform[2 * i + 1]!);
  }
  heard.set(levelChange, made);
  return made;
}

function drawWave(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { top, height } = lanes.level;
  const { hop_s } = data.curves;
  const { low: lows, high: highs } = heardWave(data.curves);
  const middle = top + height / 2;
  ctx.fillStyle = theme.wave;
  for (let x = lanes.gutter; x < lanes.width; x++) {
    const from = Math.max(0, Math.floor(xToTime(x, data.view, lanes) / hop_s));
    const to = Math.min(lows.length, Math.max(from + 1, Math.floor(xToTime(x + 1, data.view, lanes) / hop_s)));
    if (from >= to) continue;
    const low = Math.min(0, extremesIn(lows, from, to)[0]);
    const high = Math.max(0, extremesIn(highs, from, to)[1]);
    if (high > low) fillWhole(ctx, x, middle - (high / 127) * (height / 2), 1, ((high - low) / 127) * (height / 2));
  }
}

function drawContour(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  yOf: (db: number) => number,
): void {
  const { level, levelChange, hop_s } = data.curves;
  drawGhost(ctx, lanes, data, theme, yOf);
  const [from, to] = framesInView(data.view, hop_s, level.length);
  if (to - from > 2 * (lanes.width - lanes.gutter)) return drawContourColumns(ctx, lanes, data, theme, yOf);
  ctx.strokeStyle = theme.muted;
  ctx.lineWidth = 1.1;
  ctx.beginPath();
  for (let i = from; i < to; i++) ctx.lineTo(timeToX(i * hop_s, data.view, lanes), yOf(level[i]! + levelChange[i]!));
  ctx.stroke();
}

const heardLevels = new WeakMap<Float32Array, Float32Array>();

function heardLevel({ level, levelChange }: Curves): Float32Array {
  const made = heardLevels.get(levelChange) ?? level.map((db, i) => db + levelChange[i]!);
  heardLevels.set(levelChange, made);
  return made;
}

/** The contour from afar: the loudest of every column of pixels, joined by uprights. */
function drawContourColumns(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  yOf: (db: number) => number,
): void {
  const values = heardLevel(data.curves);
  const frameAt = (x: number): number => xToTime(x, data.view, lanes) / data.curves.hop_s;
  ctx.fillStyle = theme.muted;
  let before: number | null = null;
  eachColumn([lanes.gutter, lanes.width], values.length, frameAt, (x, from, to) => {
    const y = Math.round(yOf(extremesIn(values, from, to)[1]));
    const [top, bottom] = [Math.min(y, before ?? y), Math.max(y, before ?? y)];
    fillWhole(ctx, x, top, 1, Math.max(1, bottom - top));
    before = y;
  });
}

/** The loudness as sung, where it was changed. */
function drawGhost(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  yOf: (db: number) => number,
): void {
  const { level, levelChange, hop_s } = data.curves;
  const [from, to] = framesInView(data.view, hop_s, level.length);
  ctx.strokeStyle = theme.rail;
  ctx.lineWidth = 1;
  ctx.setLineDash([3, 3]);
  ctx.beginPath();
  let open = false;
  const step = Math.max(1, Math.floor((to - from) / (lanes.width - lanes.gutter)));
  for (let i = from; i < to; i += step) {
    const changed = levelChange[i] !== 0;
    if (changed && open) ctx.lineTo(timeToX(i * hop_s, data.view, lanes), yOf(level[i]!));
    else if (changed) ctx.moveTo(timeToX(i * hop_s, data.view, lanes), yOf(level[i]!));
    open = changed;
  }
  ctx.stroke();
  ctx.setLineDash([]);
}
