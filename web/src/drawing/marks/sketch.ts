/** Handles of the selected note, and what a gesture under way shows. */

import type { NoteOut } from "../../document/track/model";
import { linesAt, pitchLabel } from "../../document/music/pitch_names";
import { sourceToSong } from "../../document/time/times";
import { HANDLE, handlesOf } from "../../geometry/handles";
import { type Lanes, midiToY, timeToX } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";

export function drawSketch(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, lanes.pitch.top, lanes.width - lanes.gutter, lanes.pitch.height);
  ctx.clip();
  const chosen = data.selection.size === 1 ? data.notes.find((note) => data.selection.has(note.id)) : undefined;
  if (chosen && !data.drag && data.tool !== "time") drawHandles(ctx, lanes, data, theme, chosen);
  if (data.sketch) drawOne(ctx, lanes, data, theme);
  for (const points of data.melodyLines) drawPoints(ctx, lanes, data, theme, points, true);
  ctx.restore();
  if (data.sketch?.kind === "stretch") drawStretch(ctx, lanes, data, theme, data.sketch);
  if (data.sketch?.kind === "frame") drawFrame(ctx, theme, data.sketch);
}

/** A stretch of time that is marked, over the pitch and air lanes. */
function drawStretch(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  sketch: { start_s: number; end_s: number },
): void {
  const x = timeToX(sketch.start_s, data.view, lanes);
  const width = timeToX(sketch.end_s, data.view, lanes) - x;
  ctx.fillStyle = theme.selectWash;
  ctx.fillRect(x, lanes.pitch.top, width, lanes.pitch.height + lanes.air.height);
  ctx.fillStyle = theme.select;
  ctx.fillRect(x - 0.75, lanes.pitch.top, 1.5, lanes.pitch.height + lanes.air.height);
  ctx.fillRect(x + width - 0.75, lanes.pitch.top, 1.5, lanes.pitch.height + lanes.air.height);
  drawLabel(ctx, lanes, theme, `${(sketch.end_s - sketch.start_s).toFixed(2)} s`, x + 4, lanes.air.top + 4);
}

function drawFrame(
  ctx: CanvasRenderingContext2D,
  theme: Theme,
  { x0, y0, x1, y1 }: { x0: number; y0: number; x1: number; y1: number },
): void {
  ctx.fillStyle = theme.selectWash;
  ctx.fillRect(x0, y0, x1 - x0, y1 - y0);
  ctx.strokeStyle = theme.select;
  ctx.lineWidth = 1;
  ctx.strokeRect(x0, y0, x1 - x0, y1 - y0);
}

function drawHandles(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme, note: NoteOut): void {
  ctx.fillStyle = theme.select;
  for (const handle of handlesOf(note, data.notes, data.view, lanes)) {
    const half = HANDLE / 2 + (handle.kind === data.nearHandle ? 3 : 0);
    ctx.beginPath();
    if (handle.kind === "glide") {
      ctx.moveTo(handle.x, handle.y - half);
      ctx.lineTo(handle.x + half, handle.y);
      ctx.lineTo(handle.x, handle.y + half);
      ctx.lineTo(handle.x - half, handle.y);
    } else ctx.roundRect(handle.x - half, handle.y - half, 2 * half, 2 * half, 3);
    ctx.fill();
  }
}

export function drawLabel(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  theme: Theme,
  words: string,
  x: number,
  y: number,
): void {
  const text = words;
  ctx.font = `650 12px ${FONT}`;
  const width = ctx.measureText(text).width + 12;
  const left = Math.min(Math.max(x, lanes.gutter + 2), lanes.width - width - 2);
  ctx.fillStyle = theme.select;
  ctx.beginPath();
  ctx.roundRect(left, y, width, 20, 5);
  ctx.fill();
  ctx.fillStyle = theme.sheet;
  ctx.textBaseline = "middle";
  ctx.fillText(text, left + 6, y + 10.5);
}

function upright(ctx: CanvasRenderingContext2D, lanes: Lanes, theme: Theme, x: number): void {
  ctx.fillStyle = theme.select;
  ctx.fillRect(x - 0.75, lanes.pitch.top, 1.5, lanes.pitch.height);
}

function drawPoints(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  { view }: SheetData,
  theme: Theme,
  points: readonly (readonly [number, number])[],
  whole: boolean,
): void {
  ctx.strokeStyle = theme.select;
  ctx.lineWidth = 2.5;
  ctx.setLineDash(whole ? [] : [5, 3]);
  ctx.beginPath();
  for (const [time_s, midi] of points) ctx.lineTo(timeToX(time_s, view, lanes), midiToY(midi, view, lanes));
  ctx.stroke();
  ctx.setLineDash([]);
}

function drawOne(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const sketch = data.sketch!;
  const { view, song } = data;
  const xOf = (time_s: number): number => timeToX(time_s, view, lanes);
  const top = lanes.pitch.top + 6;
  if (sketch.kind === "split") {
    const { at_s, left_midi, right_midi } = sketch.proposal;
    const x = xOf(at_s);
    const lines = linesAt(song, sourceToSong(at_s, view.times));
    const name = (midi: number): string => pitchLabel(midi, lines);
    upright(ctx, lanes, theme, x);
    ctx.font = `650 12px ${FONT}`;
    drawLabel(ctx, lanes, theme, name(left_midi), x - ctx.measureText(name(left_midi)).width - 18, top);
    drawLabel(ctx, lanes, theme, name(right_midi), x + 6, top);
  } else if (sketch.kind === "edge") {
    upright(ctx, lanes, theme, xOf(sketch.at_s));
    drawLabel(ctx, lanes, theme, `${sketch.side} ${sketch.at_s.toFixed(2)} s`, xOf(sketch.at_s) + 6, top);
  } else if (sketch.kind === "glide") {
    const note = data.notes.find((candidate) => candidate.id === sketch.noteId);
    if (!note) return;
    const half = sketch.glide_ms / 2000;
    ctx.fillStyle = theme.selectWash;
    ctx.fillRect(
      xOf(note.start_s - half),
      lanes.pitch.top,
      xOf(note.start_s + half) - xOf(note.start_s - half),
      lanes.pitch.height,
    );
    const bend = sketch.bend < -0.05 ? "early" : sketch.bend > 0.05 ? "late" : "even";
    drawLabel(ctx, lanes, theme, `Glide ${Math.round(sketch.glide_ms)} ms, ${bend}`, xOf(note.start_s) + 8, top);
  } else if (sketch.kind === "line") {
    drawPoints(ctx, lanes, data, theme, sketch.points, sketch.exact);
    const [at_s, midi] = sketch.points.at(-1)!;
    const name = pitchLabel(midi, linesAt(song, sourceToSong(at_s, view.times)));
    drawLabel(ctx, lanes, theme, name, xOf(at_s) + 10, Math.max(top, midiToY(midi, view, lanes) - 28));
  } else if (sketch.kind === "rub") {
    ctx.fillStyle = theme.selectWash;
    ctx.fillRect(xOf(sketch.start_s), lanes.pitch.top, xOf(sketch.end_s) - xOf(sketch.start_s), lanes.pitch.height);
  }
}
