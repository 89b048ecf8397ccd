/** Borders between notes that touch, with how sure they are: faint, and the fainter the surer. */

import { type Lanes, timeToX } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";

const LEAST_APART = 30; // pixels between two numbers

export function drawCuts(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  ctx.font = `11px ${FONT}`;
  ctx.textAlign = "center";
  ctx.textBaseline = "bottom";
  let last = -Infinity;
  for (const cut of data.cuts) {
    const x = timeToX(cut.at_s, data.view, lanes);
    if (x < lanes.gutter || x > lanes.width) continue;
    const unsure = cut.confidence < 0.5;
    ctx.strokeStyle = unsure ? theme.flag : theme.muted;
    ctx.lineWidth = 1;
    ctx.setLineDash([2, 4]);
    ctx.beginPath();
    ctx.moveTo(Math.round(x) + 0.5, lanes.ruler);
    ctx.lineTo(Math.round(x) + 0.5, lanes.air.top - 16);
    ctx.stroke();
    if (x - last < LEAST_APART) continue;
    ctx.fillStyle = unsure ? theme.flag : theme.muted;
    ctx.fillText(`${Math.round(100 * cut.confidence)} %`, x, lanes.air.top - 2);
    last = x;
  }
  ctx.setLineDash([]);
  ctx.textAlign = "left";
}
