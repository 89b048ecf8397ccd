/** The whole sheet, back to front. */

import { layLanes } from "../geometry/viewport";
import { drawAirLane } from "./air_lane";
import { drawLevelLane } from "./level_lane";
import { drawSketch } from "./sketch";
import { drawPitchLane } from "./pitch_lane";
import { drawRuler } from "./ruler";
import type { SheetData } from "./sheet_data";
import type { Theme } from "./theme";

export function drawSheet(
  ctx: CanvasRenderingContext2D,
  width: number,
  height: number,
  data: SheetData,
  theme: Theme,
): void {
  const lanes = layLanes(width, height);
  ctx.fillStyle = theme.sheet;
  ctx.fillRect(0, 0, width, height);
  drawRuler(ctx, lanes, data, theme);
  drawAirLane(ctx, lanes, data, theme);
  drawLevelLane(ctx, lanes, data, theme);
  drawPitchLane(ctx, lanes, data, theme);
  drawSketch(ctx, lanes, data, theme);
  ctx.fillStyle = theme.lineStrong;
  ctx.fillRect(lanes.gutter - 0.5, lanes.ruler, 1, height);
}
