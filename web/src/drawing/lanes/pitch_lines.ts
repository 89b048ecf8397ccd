/** The lines of the pitches that each key allows, with their names, over the time that the key lasts. */

import { type KeySpan, keySpans, linesAt } from "../../document/music/pitch_names";
import type { PitchLineOut } from "../../document/schema";
import { type Lanes, midiToY, songToX } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";

const NAMED_PX = 11; // lines that are nearer to each other are not all named
const DRAWN_PX = 3; // those that are nearer still are not all drawn
const EDGE_PX = 6;
const TITLE_PX = 24; // of the key, at the top
const ROOM_PX = 60; // for the names of a later key

export function drawLines(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { view, song } = data;
  ctx.textBaseline = "middle";
  for (const span of keySpans(song)) {
    const from = Math.max(lanes.gutter, songToX(span.key.start_s, view, lanes));
    const to = Math.min(lanes.width, songToX(span.end_s, view, lanes));
    if (to > from) drawSpan(ctx, lanes, data, theme, span, from, to);
  }
  const lines = inSight(linesAt(song, view.start_s), data, lanes);
  for (const { line, y } of lines) if (!line.allowed) drawTick(ctx, lanes, theme, y);
  nameLines(ctx, lines, theme);
}

interface Placed {
  line: PitchLineOut;
  y: number;
}

function inSight(lines: readonly PitchLineOut[], { view }: SheetData, lanes: Lanes): Placed[] {
  const found = [];
  for (const line of lines) {
    if (line.midi < view.low - 1 || line.midi > view.high + 1) continue;
    const y = Math.round(midiToY(line.midi, view, lanes));
    if (y >= lanes.pitch.top + EDGE_PX && y <= lanes.pitch.top + lanes.pitch.height - EDGE_PX) found.push({ line, y });
  }
  return found;
}

function drawTick(ctx: CanvasRenderingContext2D, lanes: Lanes, theme: Theme, y: number): void {
  ctx.fillStyle = theme.lineStrong;
  ctx.fillRect(lanes.gutter - 5, y, 5, 1);
}

/** The smallest distance between two allowed lines. */
function spacing(placed: readonly Placed[]): number {
  const ys = placed.filter(({ line }) => line.allowed).map(({ y }) => y);
  return Math.min(...ys.slice(1).map((y, i) => ys[i]! - y), Infinity);
}

function drawSpan(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  { lines }: KeySpan,
  from: number,
  to: number,
): void {
  const placed = inSight(lines, data, lanes);
  const dense = spacing(placed) < DRAWN_PX;
  for (const { line, y } of placed) {
    const tonic = line.degree === 1;
    if (!line.allowed || (dense && !tonic)) continue;
    ctx.fillStyle = tonic ? theme.lineStrong : theme.line;
    ctx.fillRect(from, y, to - from, tonic ? 1.5 : 1);
  }
  if (from > lanes.gutter && to - from > ROOM_PX) nameBeside(ctx, placed, theme, from, lanes.pitch.top + TITLE_PX);
}

/** Names where a later key begins in sight. */
function nameBeside(
  ctx: CanvasRenderingContext2D,
  placed: readonly Placed[],
  theme: Theme,
  from: number,
  top: number,
): void {
  ctx.font = `10.5px ${FONT}`;
  let last = Infinity;
  for (const { line, y } of placed) {
    if (!line.allowed || last - y < NAMED_PX || y < top) continue;
    last = y;
    ctx.fillStyle = theme.sheet;
    ctx.fillRect(from + 3, y - 5, ctx.measureText(line.name).width + 4, 10);
    ctx.fillStyle = theme.muted;
    ctx.fillText(line.name, from + 5, y);
  }
}

/** Names in the gutter: degree and name, or the step and the note that it lies at. */
function nameLines(ctx: CanvasRenderingContext2D, placed: readonly Placed[], theme: Theme): void {
  const tonics = placed.filter(({ line }) => line.allowed && line.degree === 1).map(({ y }) => y);
  let last = Infinity; // from below upwards
  for (const { line, y } of placed) {
    const tonic = line.degree === 1;
    const clear = tonic || (last - y >= NAMED_PX && tonics.every((other) => Math.abs(other - y) >= NAMED_PX));
    if (!line.allowed || !clear) continue;
    last = y;
    ctx.fillStyle = tonic ? theme.ink : theme.muted;
    ctx.font = `${tonic ? 650 : 450} ${line.near ? 10.5 : 12}px ${FONT}`;
    ctx.fillText(line.near || line.name, line.near ? 19 : 22, y);
    if (!line.degree) continue;
    ctx.fillStyle = theme.muted;
    ctx.font = `10.5px ${FONT}`;
    ctx.fillText(String(line.degree), line.near ? 4 : 8, y);
  }
}
