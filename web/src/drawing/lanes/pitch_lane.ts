/** Pitch lane, in the parts that its layers hold: scale lines; rails and names; threads and the tint between them. */

import { type Ghost, type NoteOut, pitchHeld } from "../../document/track/model";
import { notePitch, signed } from "../../document/music/pitch_names";
import { extremesIn } from "../../geometry/extremes";
import { columns, voicedRuns } from "../../geometry/polyline";
import { framesInView, sourceSpan, type Lanes, midiToY, timeToX, xToTime } from "../../geometry/viewport";
import { drawFlag, drawFray, drawTied } from "../marks/flag";
import { frameRange, isFar, SAME } from "./frames";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";
import { drawTints } from "./tint";
import { fillWhole } from "../whole_pixels";

const NARROW = 12; // pixels of a note whose round corners nobody sees
const TOLERANCE = 0.1;

function inPitchLane(ctx: CanvasRenderingContext2D, lanes: Lanes, paint: () => void): void {
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, lanes.pitch.top, lanes.width - lanes.gutter, lanes.pitch.height);
  ctx.clip();
  paint();
  ctx.restore();
}

function notesSeen(data: SheetData): NoteOut[] {
  const [from, to] = sourceSpan(data.view);
  return data.notes.filter((note) => note.end_s >= from && note.start_s <= to);
}

/** Rails, names and marks of the notes. */
export function drawNotes(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  inPitchLane(ctx, lanes, () => {
    for (const note of notesSeen(data)) {
      drawRail(ctx, lanes, data, theme, note);
      drawName(ctx, lanes, data, theme, note);
    }
  });
}

/** The sung and the tuned thread, another version's, and the tint between. */
export function drawThreads(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  inPitchLane(ctx, lanes, () => {
    drawTints(ctx, lanes, data, theme);
    drawThread(ctx, lanes, data, data.curves.sung, theme.sung, 1.4);
    if (data.ghost) drawGhost(ctx, lanes, data, theme, data.ghost);
    drawTuned(ctx, lanes, data, theme, notesSeen(data));
  });
}

/** Where the notes under a drag would go. */
export function drawDragged(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  if (data.drag) inPitchLane(ctx, lanes, () => drawDrag(ctx, lanes, data, theme));
}

function drawRail(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme, note: NoteOut): void {
  const { view } = data;
  const chosen = data.selection.has(note.id);
  const x = timeToX(note.start_s, view, lanes);
  const width = Math.max(2, timeToX(note.end_s, view, lanes) - x - 1);
  const y = midiToY(note.target_midi, view, lanes);
  const reach = Math.max(3, (TOLERANCE / (view.high - view.low)) * lanes.pitch.height);
  ctx.fillStyle = chosen ? theme.selectWash : theme.band;
  if (width < NARROW) fillWhole(ctx, x, y - reach, width, 2 * reach);
  else {
    ctx.beginPath();
    ctx.roundRect(x, y - reach, width, 2 * reach, Math.min(4, reach));
    ctx.fill();
  }
  ctx.fillStyle = chosen ? theme.select : bent(data, note) ? theme.tuned : theme.rail;
  if (width < NARROW) fillWhole(ctx, x, y - 1, width, 2);
  else ctx.fillRect(x, y - 0.75, width, 1.5);
  if (note.leave_as_sung) drawTied(ctx, theme, x, x + width, y);
  if (note.centre_span) drawCentreSpan(ctx, lanes, data, theme, note, note.centre_span);
  if (chosen) {
    const sung = midiToY(note.centre_midi, view, lanes);
    const top = Math.min(y - reach, sung) - 5;
    const bottom = Math.max(y + reach, sung) + 5;
    ctx.strokeStyle = theme.select;
    ctx.lineWidth = 1.25;
    ctx.beginPath();
    ctx.roundRect(x - 1, top, width + 2, bottom - top, 5);
    ctx.stroke();
  }
}

/** The part of the note that its centre was set on by hand: a bracket under the sung thread. */
function drawCentreSpan(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  note: NoteOut,
  span: number[],
): void {
  const [from, to] = [timeToX(span[0]!, data.view, lanes), timeToX(span[1]!, data.view, lanes)];
  const y = midiToY(note.centre_midi, data.view, lanes) + 9;
  ctx.fillStyle = theme.ink;
  ctx.fillRect(from, y, to - from, 1.5);
  ctx.fillRect(from, y - 4, 1.5, 4);
  ctx.fillRect(to - 1.5, y - 4, 1.5, 4);
}

function drawThread(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  values: Float32Array,
  colour: string,
  width: number,
  [from, to]: [number, number] = frameRange(data),
): void {
  const { view, curves } = data;
  const xOf = (frame: number): number => timeToX(frame * curves.hop_s, view, lanes);
  const yOf = (midi: number): number => midiToY(midi, view, lanes);
  if (isFar(data, lanes)) {
    ctx.fillStyle = colour;
    const frameAt = (x: number): number => xToTime(x, view, lanes) / curves.hop_s;
    const seen: [number, number] = [Math.floor(xOf(from)), Math.ceil(xOf(to))];
    for (const { x, top, bottom } of columns(values, seen, frameAt, yOf))
      fillWhole(ctx, x, top - width / 2, 1, Math.max(width, bottom - top));
    return;
  }
  ctx.strokeStyle = colour;
  ctx.lineWidth = width;
  ctx.lineJoin = "round";
  ctx.beginPath();
  for (const [a, b] of voicedRuns(values, from, to)) {
    ctx.moveTo(xOf(a), yOf(values[a]!));
    for (let frame = a + 1; frame < b; frame++) ctx.lineTo(xOf(frame), yOf(values[frame]!));
  }
  ctx.stroke();
}

/** Another version's tuned thread where it differs from this one: thin and dashed. */
function drawGhost(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  theme: Theme,
  { tuned, times }: Ghost,
): void {
  const { curves } = data;
  const view = { ...data.view, times };
  const apart = times.track_s !== data.view.times.track_s;
  const [from, to] = framesInView(view, curves.hop_s, curves.sung.length);
  ctx.save();
  ctx.setLineDash([5, 3]);
  ctx.strokeStyle = theme.ink;
  ctx.lineWidth = 1.1;
  ctx.beginPath();
  let open = false;
  for (let frame = from; frame < Math.min(to, tuned.length); frame++) {
    const moved =
      apart &&
      Math.abs(timeToX(frame * curves.hop_s, data.view, lanes) - timeToX(frame * curves.hop_s, view, lanes)) > 0.5;
    const differs = !Number.isNaN(tuned[frame]!) && (moved || Math.abs(tuned[frame]! - curves.tuned[frame]!) > SAME);
    const [x, y] = [timeToX(frame * curves.hop_s, view, lanes), midiToY(tuned[frame]!, view, lanes)];
    if (differs && open) ctx.lineTo(x, y);
    else if (differs) ctx.moveTo(x, y);
    open = differs;
  }
  ctx.stroke();
  ctx.restore();
}

const NAME_WIDTH = 64;
const NAME_RISE = 22; // pixels that a name gives way at most
const GLIDING_S = 0.07; // at both ends of a note, where its thread is on the way from or to its neighbour

/** The tuned thread is drawn where it differs from the sung one; elsewhere the two are one. */
function drawTuned(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme, seen: NoteOut[]): void {
  const { curves } = data;
  for (const note of seen) {
    const a = Math.max(0, Math.round(note.start_s / curves.hop_s));
    const b = Math.min(curves.sung.length, Math.round(note.end_s / curves.hop_s) + 1);
    const colour = data.selection.has(note.id) ? theme.select : theme.tuned;
    if (bent(data, note) || data.selection.has(note.id))
      drawThread(ctx, lanes, data, curves.tuned, colour, 2.4, [a, b]);
  }
}

const bentOf = new WeakMap<Float32Array, Map<NoteOut, boolean>>();

/** Whether a note's pitch is changed: one whose level alone is changed shows that in the level lane. */
function bent(data: SheetData, note: NoteOut): boolean {
  if (!note.edited && data.glazes.length === 0) return false;
  const known = bentOf.get(data.curves.tuned) ?? new Map<NoteOut, boolean>();
  bentOf.set(data.curves.tuned, known);
  const found = known.get(note) ?? differs(data, note);
  known.set(note, found);
  return found;
}

function differs(data: SheetData, note: NoteOut): boolean {
  const { sung, tuned, hop_s } = data.curves;
  const last = Math.min(sung.length, Math.round(note.end_s / hop_s) + 1);
  for (let frame = Math.max(0, Math.round(note.start_s / hop_s)); frame < last; frame++)
    if (Math.abs(tuned[frame]! - sung[frame]!) > SAME) return true;
  return false;
}

/** Top of both threads under a note's name, so that it stands clear of them; at most `limit`. */
function threadTop(lanes: Lanes, data: SheetData, note: NoteOut, limit: number): number {
  const { sung, tuned, hop_s } = data.curves;
  const end_s = Math.min(
    note.end_s - GLIDING_S,
    xToTime(timeToX(note.start_s, data.view, lanes) + NAME_WIDTH, data.view, lanes),
  );
  const first = Math.max(0, Math.round((note.start_s + GLIDING_S) / hop_s));
  const last = Math.min(sung.length, Math.ceil(end_s / hop_s));
  const tops = [sung, tuned].map((values) => extremesIn(values, first, last)[1]).filter((top) => !Number.isNaN(top));
  return Math.max(limit, midiToY(Math.max(...tops), data.view, lanes));
}

function drawName(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme, note: NoteOut): void {
  const { view, song } = data;
  const x = timeToX(note.start_s, view, lanes);
  const width = timeToX(note.end_s, view, lanes) - x;
  const flagged = note.flags.length > 0;
  const rail = midiToY(note.target_midi, view, lanes);
  const centre = midiToY(note.centre_midi, view, lanes);
  if (width < 30 && !flagged && note.strain <= data.strainLimit) return;
  const y = Math.min(rail, centre, threadTop(lanes, data, note, Math.min(rail, centre) - NAME_RISE)) - 13;
  if (note.strain > data.strainLimit) drawFray(ctx, theme, x + 2, Math.max(rail, centre) + 12, Math.min(width - 4, 36));
  if (flagged) drawFlag(ctx, theme, Math.max(x + 4, lanes.gutter + 4), y);
  if (width < 30) return;
  const { name, cents: off } = notePitch(song, note, note.tuned_midi, view.times.offset_s);
  ctx.font = `600 12px ${FONT}`;
  ctx.textBaseline = "middle";
  ctx.fillStyle = data.selection.has(note.id) ? theme.select : theme.ink;
  const at = Math.max(x, lanes.gutter) + (flagged ? 13 : 3);
  ctx.fillText(name, at, y);
  if (off !== 0 && width > 52) {
    const after = ctx.measureText(name).width;
    ctx.font = `12px ${FONT}`;
    ctx.fillStyle = flagged ? theme.flag : theme.muted;
    ctx.fillText(signed(off), at + after + 4, y);
  }
}

function drawDrag(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const drag = data.drag!;
  const { view } = data;
  const line = midiToY(drag.line, view, lanes);
  ctx.fillStyle = theme.select;
  ctx.fillRect(lanes.gutter, line - 0.5, lanes.width, 1);
  let labelX = 0;
  let labelY = 0;
  for (const note of data.notes) {
    if (!drag.noteIds.includes(note.id)) continue;
    const x = timeToX(note.start_s, view, lanes);
    const y = midiToY(pitchHeld(note) + drag.semitones, view, lanes);
    ctx.fillRect(x, y - 1.5, timeToX(note.end_s, view, lanes) - x, 3);
    labelX = x;
    labelY = y;
  }
  ctx.font = `650 13px ${FONT}`;
  const label = drag.label;
  const width = ctx.measureText(label).width + 14;
  const top = Math.max(lanes.pitch.top + 4, labelY - 34);
  const left = Math.min(Math.max(labelX, lanes.gutter + 4), lanes.width - width - 4);
  ctx.beginPath();
  ctx.roundRect(left, top, width, 22, 5);
  ctx.fill();
  ctx.fillStyle = theme.sheet;
  ctx.textBaseline = "middle";
  ctx.fillText(label, left + 7, top + 11.5);
}
