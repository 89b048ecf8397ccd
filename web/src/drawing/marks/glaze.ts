/** Where glazes lie: a band along the top of the pitch lane with how soon they settle. */

import { timeToX, type Lanes } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";

const BAND = 5;

export function drawGlazes(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  ctx.font = `11px ${FONT}`;
  ctx.textBaseline = "top";
  for (const glaze of data.glazes) {
    const from = Math.max(lanes.gutter, timeToX(glaze.start_s, data.view, lanes));
    const to = Math.min(lanes.width, timeToX(glaze.end_s, data.view, lanes));
    if (to <= from) continue;
    ctx.fillStyle = theme.glaze;
    ctx.fillRect(from, lanes.pitch.top, to - from, BAND);
    const words = `Glaze, settles in ${Math.round(glaze.settle_ms)} ms`;
    if (ctx.measureText(words).width + 12 > to - from) continue;
    ctx.fillStyle = theme.muted;
    ctx.fillText(words, from + 6, lanes.pitch.top + BAND + 3);
  }
}
