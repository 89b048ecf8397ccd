/** Air lane: every kind with its own outline, as high as it sounds; the as-sung height stays as a ghost. */

import type { AirOut, Sketch } from "../../document/track/model";
import { signed } from "../../document/music/pitch_names";
import { airHeight } from "../../geometry/air";
import { type Lanes, timeToX } from "../../geometry/viewport";
import { drawSpectrum } from "./air_spectrum";
import { drawFlag } from "../marks/flag";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";
import { fillWhole } from "../whole_pixels";

const NAMES: Record<string, string> = { sibilant: "sib", consonant: "con", breath: "breath" };

/** The change of level an event will have, with a drag under way. */
function changeOf(event: AirOut, sketch: Sketch | null): { db: number; muted: boolean } {
  if (sketch?.kind !== "level" || sketch.of !== "air" || !sketch.ids.includes(event.id))
    return { db: event.change_db, muted: event.muted };
  return { db: Math.min(12, Math.max(-60, event.change_db + sketch.db)), muted: false };
}

function spanOf(event: AirOut, sketch: Sketch | null): [number, number] {
  if (sketch?.kind !== "air_edge" || sketch.airId !== event.id) return [event.start_s, event.end_s];
  return sketch.side === "start" ? [sketch.at_s, event.end_s] : [event.start_s, sketch.at_s];
}

/** Name and upper edge of the lane. */
export function drawAirFrame(ctx: CanvasRenderingContext2D, lanes: Lanes, theme: Theme): void {
  const { top } = lanes.air;
  ctx.fillStyle = theme.lineStrong;
  ctx.fillRect(0, top, lanes.width, 1);
  ctx.fillStyle = theme.muted;
  ctx.font = `600 12px ${FONT}`;
  ctx.textBaseline = "middle";
  ctx.fillText("Air", 10, top + 11);
}

export function drawAirLane(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { top, height } = lanes.air;
  ctx.textBaseline = "middle";
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, top, lanes.width - lanes.gutter, height);
  ctx.clip();
  if (data.spectrum) drawSpectrum(ctx, lanes, data, data.spectrum, theme);
  for (const event of data.air) if (!data.airSelection.has(event.id)) drawEvent(ctx, lanes, data, theme, event);
  for (const event of data.air) if (data.airSelection.has(event.id)) drawEvent(ctx, lanes, data, theme, event);
  ctx.restore();
}

const NARROW = 4; // pixels in which no outline can be told

function drawEvent(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme, event: AirOut): void {
  const { top, height } = lanes.air;
  const [start, end] = spanOf(event, data.sketch);
  const x = timeToX(start, data.view, lanes);
  const width = Math.max(2, timeToX(end, data.view, lanes) - x);
  if (x > lanes.width || x + width < lanes.gutter) return;
  const change = changeOf(event, data.sketch);
  const floor = top + height - 3;
  const sung = airHeight(event.level_db, lanes);
  const tall = change.muted ? 0 : airHeight(event.level_db + change.db, lanes);
  const chosen = data.airSelection.has(event.id);
  const owned = event.owner !== null && data.selection.has(event.owner);
  const edited = change.muted || change.db !== 0;
  if (edited) {
    trace(ctx, event, x, floor - sung, width, sung);
    ctx.setLineDash([3, 3]);
    ctx.strokeStyle = theme.sung;
    ctx.lineWidth = 1;
    ctx.stroke();
    ctx.setLineDash([]);
  }
  const colour = chosen ? theme.select : edited ? theme.tuned : owned ? theme.select : theme.air;
  if (tall > 0 && width < NARROW && !chosen) {
    ctx.fillStyle = colour;
    fillWhole(ctx, x, floor - tall, width - 1, tall);
  } else if (tall > 0) drawShape(ctx, theme, event, colour, [x, floor - tall, width, tall], data.spectrum !== null);
  if (chosen) {
    ctx.strokeStyle = theme.select;
    ctx.lineWidth = 1.25;
    ctx.beginPath();
    ctx.roundRect(x - 1.5, floor - Math.max(sung, tall) - 3, width + 3, Math.max(sung, tall) + 5, 3);
    ctx.stroke();
  }
  drawWords(ctx, data, theme, event, { x, width, top, change, edited, chosen });
}

function drawWords(
  ctx: CanvasRenderingContext2D,
  data: SheetData,
  theme: Theme,
  event: AirOut,
  at: {
    x: number;
    width: number;
    top: number;
    change: { db: number; muted: boolean };
    edited: boolean;
    chosen: boolean;
  },
): void {
  const dragged = data.sketch?.kind === "level" && data.sketch.of === "air" && data.sketch.ids.includes(event.id);
  const left = at.x + (event.harsh_db !== null ? 12 : 2);
  ctx.font = `${at.chosen || dragged ? 650 : 450} 11px ${FONT}`;
  ctx.fillStyle = at.chosen ? theme.select : at.edited ? theme.tuned : theme.muted;
  const kind = (event.voiced ? "~" : "") + (at.chosen ? event.kind : (NAMES[event.kind] ?? event.kind));
  const level = at.change.muted ? "silent" : signed(at.change.db, Math.abs(at.change.db) < 10 ? 1 : 0);
  const text = dragged ? `${level} dB` : at.edited ? level : kind;
  const worded = dragged || at.edited || at.chosen || at.width > 34;
  if ((data.spectrum || at.chosen) && (worded || event.harsh_db !== null)) {
    const colour = ctx.fillStyle;
    ctx.fillStyle = theme.sheet;
    ctx.fillRect(at.x, at.top + 1, left - at.x + (worded ? ctx.measureText(text).width + 3 : 0), 15);
    ctx.fillStyle = colour;
  }
  if (worded) ctx.fillText(text, left, at.top + 8);
  if (event.harsh_db !== null) drawFlag(ctx, theme, at.x + 4, at.top + 8);
}

const TEETH = { coarsest: 9, finest: 3, tallest: 7, darkest_db: -20 };

/** A sibilant is a comb, with more and finer teeth the brighter it is; a consonant a wedge; a breath a low dome. */
function trace(
  ctx: CanvasRenderingContext2D,
  event: AirOut,
  x: number,
  y: number,
  width: number,
  height: number,
): void {
  const floor = y + height;
  ctx.beginPath();
  ctx.moveTo(x, floor);
  if (event.kind === "breath") {
    ctx.bezierCurveTo(x + width * 0.12, y - height * 0.2, x + width * 0.88, y - height * 0.2, x + width, floor);
  } else if (event.kind === "consonant") {
    ctx.lineTo(x + width, y);
    ctx.lineTo(x + width, floor);
  } else {
    const bright = Math.min(1, Math.max(0, 1 - (event.high_db - event.level_db) / TEETH.darkest_db));
    const teeth = Math.max(2, Math.round(width / (TEETH.coarsest - (TEETH.coarsest - TEETH.finest) * bright)));
    const tall = Math.min(TEETH.tallest, height / 2);
    for (let tooth = 0; tooth < teeth; tooth++) {
      ctx.lineTo(x + (width * tooth) / teeth, y + tall);
      ctx.lineTo(x + (width * (tooth + 0.5)) / teeth, y);
    }
    ctx.lineTo(x + width, y + tall);
    ctx.lineTo(x + width, floor);
  }
  ctx.closePath();
}

function drawShape(
  ctx: CanvasRenderingContext2D,
  theme: Theme,
  event: AirOut,
  colour: string,
  [x, y, width, height]: [number, number, number, number],
  outlineOnly: boolean,
): void {
  ctx.save();
  trace(ctx, event, x, y, width, height);
  if (!outlineOnly) {
    ctx.fillStyle = theme.airWash;
    ctx.fill();
  }
  ctx.strokeStyle = colour;
  ctx.lineWidth = outlineOnly ? 1.5 : 1;
  if (event.voiced) ctx.setLineDash([4, 2]);
  ctx.stroke();
  ctx.restore();
}
