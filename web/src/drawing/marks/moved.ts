/** Time on the sheet: where moved notes were sung and by how much they moved, pins, and a move under way. */

import type { NoteOut, TimeEdge } from "../../document/track/model";
import { sourceToSong, UNMOVED } from "../../document/time/times";
import { secondsText, shiftText } from "../../document/time/time_text";
import { type Lanes, midiToY, songToX, sourceSpan, timeToX } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import { drawLabel } from "./sketch";
import { FONT, type Theme } from "../theme";

const GHOST_RISE = 8;
const NOTICED_MS = 1;

/** Where moved notes were sung, how far they moved, and the pins. */
export function drawMoved(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const [from, to] = sourceSpan(data.view);
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, 0, lanes.width - lanes.gutter, lanes.height);
  ctx.clip();
  for (const note of data.notes) {
    const { start_shift_ms, end_shift_ms } = note.gesture;
    const noticed = Math.max(Math.abs(start_shift_ms), Math.abs(end_shift_ms)) >= NOTICED_MS;
    const near =
      note.end_s > from - Math.abs(end_shift_ms) / 1000 && note.start_s < to + Math.abs(start_shift_ms) / 1000;
    if (noticed && near) drawSungPlace(ctx, lanes, data, theme, note);
  }
  for (const pin of data.pins) drawPin(ctx, lanes, theme, timeToX(pin.at_s, data.view, lanes));
  ctx.restore();
}

/** A thin bracket under the rail over the time a note was sung in, with lines to where its edges are now. */
function drawSungPlace(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  note: NoteOut,
): void {
  const { view } = data;
  const sung = { ...UNMOVED, offset_s: view.times.offset_s };
  const y = Math.max(midiToY(note.target_midi, view, lanes), midiToY(note.centre_midi, view, lanes)) + GHOST_RISE + 4;
  if (y > lanes.pitch.top + lanes.pitch.height - 4 || y < lanes.pitch.top) return;
  const [a, b] = [note.start_s, note.end_s].map((at) => songToX(sourceToSong(at, sung), view, lanes)) as [
    number,
    number,
  ];
  const [now, until] = [note.start_s, note.end_s].map((at) => timeToX(at, view, lanes)) as [number, number];
  ctx.strokeStyle = theme.sung;
  ctx.lineWidth = 1;
  ctx.beginPath();
  ctx.setLineDash([3, 2]);
  ctx.moveTo(a, y);
  ctx.lineTo(b, y);
  ctx.stroke();
  ctx.setLineDash([]);
  ctx.beginPath();
  for (const [was, is] of [
    [a, now],
    [b, until],
  ] as const) {
    ctx.moveTo(was, y - 3);
    ctx.lineTo(was, y + 3);
    if (Math.abs(was - is) > 1.5) {
      ctx.moveTo(was, y);
      ctx.lineTo(is, y - GHOST_RISE);
    }
  }
  ctx.stroke();
  if (until - now < 44) return;
  ctx.fillStyle = theme.muted;
  drawShift(ctx, note, [Math.max(Math.min(a, now), lanes.gutter), Math.max(b, until)], y + 4);
}

/** By how much a note is moved: where it begins, or, when it begins in its place, where it ends. */
function drawShift(ctx: CanvasRenderingContext2D, note: NoteOut, [left, right]: [number, number], y: number): void {
  const { start_shift_ms, end_shift_ms } = note.gesture;
  ctx.font = `11px ${FONT}`;
  ctx.textBaseline = "top";
  if (Math.abs(start_shift_ms) >= NOTICED_MS) return ctx.fillText(shiftText(start_shift_ms), left + 2, y);
  const words = shiftText(end_shift_ms);
  ctx.fillText(words, right - ctx.measureText(words).width - 2, y);
}

/** A pin: a head on the ruler and a line down all lanes. */
function drawPin(ctx: CanvasRenderingContext2D, lanes: Lanes, theme: Theme, x: number): void {
  ctx.fillStyle = theme.ink;
  ctx.fillRect(x - 0.5, lanes.ruler - 8, 1, lanes.height);
  ctx.beginPath();
  ctx.arc(x, lanes.ruler - 8, 4.5, 0, 2 * Math.PI);
  ctx.fill();
  ctx.fillStyle = theme.sheetOut;
  ctx.beginPath();
  ctx.arc(x, lanes.ruler - 8, 1.6, 0, 2 * Math.PI);
  ctx.fill();
}

/** By how many seconds the two edges of a note under a move are later. */
function edgesMoved(edge: TimeEdge, by_s: number): [number, number] {
  return [edge === "end" ? 0 : by_s, edge === "start" ? 0 : by_s];
}

function drawPinDrag(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  sketch: { pinId: string; by_ms: number },
): void {
  const pin = data.pins.find((one) => one.id === sketch.pinId);
  if (!pin) return;
  const x = songToX(sourceToSong(pin.at_s, data.view.times) + sketch.by_ms / 1000, data.view, lanes);
  ctx.fillStyle = theme.select;
  ctx.fillRect(x - 0.75, lanes.ruler - 8, 1.5, lanes.height);
  drawLabel(ctx, lanes, theme, shiftText(sketch.by_ms), x + 6, lanes.ruler + 6);
}

/** Upright bars at both ends of the chosen notes, to be taken hold of. */
function drawGrips(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  ctx.fillStyle = theme.select;
  for (const note of data.notes) {
    if (!data.selection.has(note.id)) continue;
    const y = midiToY(note.target_midi, data.view, lanes);
    for (const at of [note.start_s, note.end_s]) {
      const x = timeToX(at, data.view, lanes);
      if (x < lanes.gutter || y < lanes.pitch.top || y > lanes.air.top) continue;
      ctx.beginPath();
      ctx.roundRect(x - 2, y - 14, 4, 28, 2);
      ctx.fill();
    }
  }
}

/** Notes under a move at the place where they would go, with by how much in words. */
export function drawTimeDrag(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { sketch, view } = data;
  if (sketch?.kind === "pin") drawPinDrag(ctx, lanes, data, theme, sketch);
  if (data.tool === "time" && sketch === null) drawGrips(ctx, lanes, data, theme);
  if (sketch?.kind !== "time") return;
  const by_s = sketch.by_ms / 1000;
  const chosen = data.notes.filter((note) => sketch.noteIds.includes(note.id));
  const last_s = Math.max(...chosen.map((note) => note.end_s));
  const later =
    sketch.follow && sketch.edge !== "start" ? data.notes.filter((note) => note.start_s >= last_s - 0.01) : [];
  let label = { x: 0, y: 0, s: 0 };
  ctx.fillStyle = theme.select;
  for (const [notes, edge, height] of [
    [chosen, sketch.edge, 4],
    [later, "both", 2],
  ] as const) {
    for (const note of notes) {
      const [start_by, end_by] = edgesMoved(edge, by_s);
      const [from, to] = [
        sourceToSong(note.start_s, view.times) + start_by,
        sourceToSong(note.end_s, view.times) + end_by,
      ];
      const x = songToX(from, view, lanes);
      const y = midiToY(note.target_midi, view, lanes);
      ctx.fillRect(x, y - height / 2, songToX(to, view, lanes) - x, height);
      if (notes === chosen && label.y === 0)
        label = { x: edge === "end" ? songToX(to, view, lanes) : x, y, s: edge === "end" ? to : from };
    }
  }
  ctx.fillRect(label.x - 0.75, lanes.pitch.top, 1.5, lanes.pitch.height);
  const words = `${shiftText(sketch.by_ms)}   ${secondsText(label.s, 3)}${sketch.limited ? "   no more room" : ""}`;
  drawLabel(ctx, lanes, theme, words, label.x + 6, Math.max(lanes.pitch.top + 6, label.y - 34));
}
