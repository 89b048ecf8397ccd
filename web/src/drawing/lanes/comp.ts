/** The comp view: what sounds in the first row, each version in a row of its own, chosen stretches strong. */

import type { CompRow, CompSketch, Stretch } from "../../document/track/comp";
import type { Curves, View } from "../../document/track/model";
import type { CompOut } from "../../document/schema";
import { songToSource } from "../../document/time/times";
import { type CompRows, layRows } from "../../geometry/comp_rows";
import { extremesIn } from "../../geometry/extremes";
import { columns, eachColumn } from "../../geometry/polyline";
import { textLines } from "../../geometry/text_lines";
import { type Lanes, layLanes, songToX, xToSong } from "../../geometry/viewport";
import type { Layer } from "../layer";
import { drawRuler, type MarkedSong } from "./ruler";
import { FONT, type Theme } from "../theme";
import { fillWhole } from "../whole_pixels";

export interface CompData {
  comp: CompOut;
  rows: readonly CompRow[];
  curves: Pick<Curves, "hop_s" | "waveform">;
  view: View;
  song: MarkedSong;
  pitches: readonly [number, number];
  /** the stretch that is looked at, in song seconds, and the version's row */
  here: Stretch | null;
  row: number;
  heard: string | null;
  sketch: CompSketch | null;
}

const SOUNDS = "sounds"; // the first row, in the gutter
const [INDENT, NAME_TOP, NAME_LINE] = [10, 27, 14]; // of what stands in the gutter

export const COMP_LAYERS: readonly Layer<CompData>[] = [
  {
    name: "rows",
    needs: (data) => [data.comp, data.rows, data.curves, data.view, data.song, data.pitches, data.heard],
    paint: paintRows,
  },
  { name: "overlay", needs: (data) => [data.view, data.here, data.row, data.sketch, data.comp], paint: paintOverlay },
];

function paintRows(ctx: CanvasRenderingContext2D, width: number, height: number, data: CompData, theme: Theme): void {
  const lanes = layLanes(width, height);
  const layout = layRows(height, data.rows.length);
  ctx.fillStyle = theme.sheet;
  ctx.fillRect(0, 0, width, height);
  drawRuler(ctx, lanes, data, theme);
  ctx.fillStyle = theme.line;
  layout.rows.forEach(({ top, height: h }) => ctx.fillRect(0, top + h - 1, width, 1));
  const offset = data.view.times.offset_s;
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, layout.ruler, width - lanes.gutter, height);
  ctx.clip();
  for (const choice of data.comp.choices) {
    const span = spanOf(choice, offset, data.view, lanes);
    const place = data.rows.findIndex((row) => row.versionId === choice.version_id);
    const row = data.rows[place];
    if (span[1] <= lanes.gutter || span[0] >= width || !row) continue;
    const sounding = layout.rows[0]!;
    drawRow(ctx, lanes, sounding, span, row, data, theme, true);
    const own = layout.rows[place + 1]!;
    ctx.fillStyle = theme.band;
    ctx.fillRect(span[0], own.top, span[1] - span[0], own.height - 1);
    drawRow(ctx, lanes, own, span, row, data, theme, true);
  }
  data.rows.forEach((row, i) => drawFaint(ctx, lanes, layout, i, row, data, theme));
  drawNumbers(ctx, lanes, layout, data, theme);
  drawBorders(ctx, lanes, layout, data, theme);
  ctx.restore();
  drawNames(ctx, lanes, layout, data, theme);
  ctx.fillStyle = theme.lineStrong;
  ctx.fillRect(lanes.gutter - 0.5, layout.ruler, 1, height);
  ctx.fillRect(0, layout.rows[0]!.top + layout.rows[0]!.height - 1.5, width, 1.5);
}

function spanOf(choice: Stretch, offset: number, view: View, lanes: Lanes): [number, number] {
  return [songToX(choice.start_s + offset, view, lanes), songToX(choice.end_s + offset, view, lanes)];
}

/** Which version sounds, by its number, at the start of every choice in the first row. */
function drawNumbers(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  layout: CompRows,
  data: CompData,
  theme: Theme,
): void {
  const { top, height } = layout.rows[0]!;
  ctx.font = `600 12px ${FONT}`;
  ctx.textBaseline = "alphabetic";
  ctx.fillStyle = theme.ink;
  for (const choice of data.comp.choices) {
    const [from, to] = spanOf(choice, data.view.times.offset_s, data.view, lanes);
    const place = data.rows.findIndex((row) => row.versionId === choice.version_id);
    const x = Math.max(from, lanes.gutter) + 5;
    if (to - x > 12) ctx.fillText(place < 0 ? "?" : String(place + 1), x, top + height - 9);
  }
}

/** Where a version is not chosen it is shown faintly. */
function drawFaint(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  layout: CompRows,
  place: number,
  row: CompRow,
  data: CompData,
  theme: Theme,
): void {
  const offset = data.view.times.offset_s;
  for (const choice of data.comp.choices) {
    if (choice.version_id === row.versionId) continue;
    const span = spanOf(choice, offset, data.view, lanes);
    drawRow(ctx, lanes, layout.rows[place + 1]!, span, row, data, theme, false);
  }
}

function drawRow(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  { top, height }: { top: number; height: number },
  span: [number, number],
  row: CompRow,
  { curves, view, pitches }: CompData,
  theme: Theme,
  strong: boolean,
): void {
  const from = Math.max(lanes.gutter, Math.floor(span[0]));
  const to = Math.min(lanes.width, Math.ceil(span[1]));
  if (to <= from) return;
  const frameAt = (x: number): number => songToSource(xToSong(x, view, lanes), row.times) / curves.hop_s;
  const head = headOf(height);
  const middle = top + height / 2 + head / 2;
  const scale = (height - head - 6) / 2 / 127;
  ctx.fillStyle = theme.wave;
  ctx.globalAlpha = strong ? 1 : 0.45;
  eachColumn([from, to], curves.waveform.length / 2, frameAt, (x, a, b) => {
    let [low, high] = [0, 0];
    for (let frame = a; frame < b; frame++) {
      low = Math.min(low, curves.waveform[2 * frame]!);
      high = Math.max(high, curves.waveform[2 * frame + 1]!);
    }
    fillWhole(ctx, x, middle - high * scale, 1, Math.max(1, (high - low) * scale));
  });
  const [lowest, highest] = pitches;
  const room = height - head - 10;
  const yOf = (midi: number): number => top + head + 4 + ((highest - midi) / (highest - lowest)) * room;
  ctx.fillStyle = strong ? theme.tuned : theme.sung;
  ctx.globalAlpha = strong ? 1 : 0.5;
  const thick = strong ? 2.2 : 1.2;
  for (const { x, top: high, bottom: low } of columns(row.tuned, [from, to], frameAt, yOf))
    fillWhole(ctx, x, high - thick / 2, 1, Math.max(thick, low - high));
  ctx.globalAlpha = 1;
}

/** Borders down all rows: a crossfade as wide as it is, and a mark where it can be heard. */
function drawBorders(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  layout: CompRows,
  { comp, view }: CompData,
  theme: Theme,
): void {
  const { top, height } = layout.rows[0]!;
  const bottom = layout.rows.at(-1)!.top + layout.rows.at(-1)!.height;
  for (const border of comp.borders) {
    const x = songToX(border.asked_s + view.times.offset_s, view, lanes);
    const [from, to] = [-0.5, 0.5].map((side) =>
      songToX(border.at_s + view.times.offset_s + (side * border.length_ms) / 1000, view, lanes),
    ) as [number, number];
    ctx.fillStyle = border.clean ? theme.lineStrong : theme.flag;
    ctx.fillRect(x - 0.5, top, 1, bottom - top);
    ctx.fillRect(from, top + height - 5, Math.max(2, to - from), 3);
    if (border.clean) continue;
    ctx.beginPath();
    ctx.moveTo(x - 5, top + 2);
    ctx.lineTo(x + 5, top + 2);
    ctx.lineTo(x, top + 10);
    ctx.fill();
  }
}

/** What is free at the top of a row. */
function headOf(height: number): number {
  return Math.min(12, height / 8);
}

/** Beside the rows, where nothing is sung: which version each is, and which of them is heard. */
function drawNames(ctx: CanvasRenderingContext2D, lanes: Lanes, layout: CompRows, data: CompData, theme: Theme): void {
  ctx.textBaseline = "top";
  const put = (place: number, number: string, name: string, heard: boolean): void => {
    const { top, height } = layout.rows[place]!;
    ctx.fillStyle = theme.ink;
    ctx.font = number === SOUNDS ? `600 12px ${FONT}` : `650 15px ${FONT}`;
    const down = Math.min(8, (height - 16) / 2);
    ctx.fillText(number, INDENT, top + down);
    ctx.font = `${heard ? 650 : 450} 12px ${FONT}`;
    ctx.fillStyle = heard ? theme.select : theme.muted;
    if (heard) ctx.fillText("▸", 2, top + down);
    const most = Math.floor((height - NAME_TOP - 4) / NAME_LINE); // low rows have their number alone
    const lines = textLines(name, lanes.gutter - INDENT - 1, most, (text) => ctx.measureText(text).width);
    lines.forEach((line, i) => ctx.fillText(line, INDENT, top + NAME_TOP + i * NAME_LINE));
  };
  put(0, SOUNDS, data.comp.version.name, data.heard === null);
  data.rows.forEach((row, i) => put(i + 1, String(i + 1), row.name, data.heard === row.versionId));
}

function paintOverlay(ctx: CanvasRenderingContext2D, w: number, height: number, data: CompData, theme: Theme): void {
  const lanes = layLanes(w, height);
  const layout = layRows(height, data.rows.length);
  const { sketch, here, view } = data;
  const place = (start_s: number, end_s: number): [number, number] => [
    Math.max(lanes.gutter, songToX(start_s, view, lanes)),
    Math.min(w, songToX(end_s, view, lanes)),
  ];
  if (here) {
    const [from, to] = place(here.start_s, here.end_s);
    const own = layout.rows[data.row + 1];
    if (to > from) {
      ctx.fillStyle = theme.selectWash;
      ctx.fillRect(from, layout.ruler, to - from, layout.rows.at(-1)!.top + layout.rows.at(-1)!.height - layout.ruler);
      ctx.strokeStyle = theme.select;
      ctx.lineWidth = 1.5;
      if (own) ctx.strokeRect(from + 0.75, own.top + 0.75, to - from - 1.5, own.height - 2.5);
    }
  }
  ctx.fillStyle = theme.select;
  if (sketch?.kind === "stretch") {
    const [from, to] = place(Math.min(sketch.from_s, sketch.to_s), Math.max(sketch.from_s, sketch.to_s));
    const own = layout.rows[sketch.row + 1]!;
    ctx.globalAlpha = 0.25;
    ctx.fillRect(from, own.top, to - from, own.height - 1);
    ctx.globalAlpha = 1;
  }
  if (sketch?.kind === "border") {
    const x = songToX(sketch.to_s, view, lanes);
    ctx.fillRect(x - 1, layout.ruler, 2, height);
  }
}

/** Lowest and highest pitch of some threads, with room around. */
export function pitchesOf(rows: readonly CompRow[]): [number, number] {
  const found = rows.map((row) => extremesIn(row.tuned, 0, row.tuned.length).slice(0, 2));
  const low = Math.min(...found.map(([lowest]) => lowest ?? Number.NaN).filter((value) => !Number.isNaN(value)), 60);
  const high = Math.max(...found.map(([, most]) => most ?? Number.NaN).filter((value) => !Number.isNaN(value)), 61);
  return [low - 1, high + 1];
}
