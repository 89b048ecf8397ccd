/** Air lane: every kind with its own shape and texture. */

import { type Lanes, timeToX } from "../geometry/viewport";
import type { SheetData } from "./sheet_data";
import { FONT, type Theme } from "./theme";

const NAMES: Record<string, string> = { sibilant: "sib", consonant: "con", breath: "breath" };

export function drawAirLane(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { top, height } = lanes.air;
  ctx.fillStyle = theme.lineStrong;
  ctx.fillRect(0, top, lanes.width, 1);
  ctx.fillStyle = theme.muted;
  ctx.font = `600 12px ${FONT}`;
  ctx.textBaseline = "middle";
  ctx.fillText("Air", 10, top + 11);
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, top, lanes.width - lanes.gutter, height);
  ctx.clip();
  for (const event of data.analysis.air) {
    const x = timeToX(event.start_s, data.view, lanes);
    const width = Math.max(2, timeToX(event.end_s, data.view, lanes) - x);
    if (x > lanes.width || x + width < lanes.gutter) continue;
    const tall = Math.min(1, Math.max(0.25, (event.level_db + 60) / 50)) * (height - 16);
    drawShape(ctx, theme, event.kind, x, top + height - 3 - tall, width, tall);
    if (width > 34) {
      ctx.fillStyle = theme.muted;
      ctx.font = `10.5px ${FONT}`;
      ctx.fillText(NAMES[event.kind] ?? event.kind, x + 3, top + 7);
    }
  }
  ctx.restore();
}

function drawShape(
  ctx: CanvasRenderingContext2D,
  theme: Theme,
  kind: string,
  x: number,
  y: number,
  width: number,
  height: number,
): void {
  ctx.save();
  ctx.beginPath();
  if (kind === "breath") ctx.ellipse(x + width / 2, y + height, width / 2, height, 0, Math.PI, 2 * Math.PI);
  else if (kind === "sibilant") ctx.rect(x, y, width, height);
  else {
    ctx.moveTo(x, y + height);
    ctx.lineTo(x + width / 2, y);
    ctx.lineTo(x + width, y + height);
  }
  ctx.closePath();
  ctx.fillStyle = theme.airWash;
  ctx.fill();
  ctx.strokeStyle = theme.air;
  ctx.lineWidth = 1;
  ctx.stroke();
  ctx.clip();
  ctx.beginPath();
  if (kind === "sibilant") {
    for (let at = x - height; at < x + width; at += 4) {
      ctx.moveTo(at, y + height);
      ctx.lineTo(at + height, y);
    }
  } else if (kind === "breath") {
    for (let at = y + 4; at < y + height; at += 5) {
      ctx.moveTo(x, at);
      ctx.lineTo(x + width, at);
    }
  }
  ctx.stroke();
  ctx.restore();
}
