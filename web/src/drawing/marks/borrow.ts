/** Where something is borrowed: a clasp along the foot of the pitch lane, with where it is from. */

import { type Lanes, sourceSpan, timeToX } from "../../geometry/viewport";
import { drawFlag } from "./flag";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";

const RISE = 7;
const FOOT = 4;

export function drawBorrows(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const [first, last] = sourceSpan(data.view);
  ctx.font = `11px ${FONT}`;
  ctx.textBaseline = "alphabetic";
  const y = lanes.pitch.top + lanes.pitch.height - FOOT;
  for (const borrow of data.borrows) {
    if (borrow.end_s < first || borrow.start_s > last) continue;
    const from = Math.max(lanes.gutter, timeToX(borrow.start_s, data.view, lanes));
    const to = Math.min(lanes.width, timeToX(borrow.end_s, data.view, lanes));
    if (to <= from) continue;
    ctx.strokeStyle = theme.ink;
    ctx.lineWidth = 1.5;
    ctx.beginPath();
    ctx.moveTo(from, y - RISE);
    ctx.quadraticCurveTo(from, y, from + 5, y);
    ctx.lineTo(Math.max(from + 5, to - 5), y);
    ctx.quadraticCurveTo(to, y, to, y - RISE);
    ctx.stroke();
    if (!borrow.clean) drawFlag(ctx, theme, from + 4, y - RISE - 6);
    const left = from + (borrow.clean ? 7 : 16);
    const words = [`from ${borrow.name}`, borrow.name, borrow.name.replace(/, [\d:.]+$/, "")].find(
      (text) => ctx.measureText(text).width <= to - left - 2,
    );
    if (words === undefined) continue;
    ctx.fillStyle = theme.muted;
    ctx.fillText(words, left, y - 4);
  }
}
