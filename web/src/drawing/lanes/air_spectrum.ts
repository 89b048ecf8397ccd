/** Energy over time and frequency in the air lane: the darker, the more. */

import type { Spectrum } from "../../document/track/model";
import { type Lanes, xToTime } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import type { Theme } from "../theme";

const LOWEST = 2 * (120 - 90); // −90 dBFS in half decibels
const RANGE = 2 * 62;

/** One row a frame of the curve; every pixel column shows the loudest frame in it. */
export function drawSpectrum(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  spectrum: Spectrum,
  theme: Theme,
): void {
  const { top, height } = lanes.air;
  const { bands, values } = spectrum;
  const frames = values.length / bands;
  const rowHeight = (height - 2) / bands;
  ctx.fillStyle = theme.ink;
  for (let x = lanes.gutter; x < lanes.width; x++) {
    const from = Math.max(0, Math.floor(xToTime(x, data.view, lanes) / data.curves.hop_s));
    const to = Math.min(frames, Math.max(from + 1, Math.floor(xToTime(x + 1, data.view, lanes) / data.curves.hop_s)));
    if (from >= frames) continue;
    for (let band = 0; band < bands; band++) {
      let most = 0;
      for (let frame = from; frame < to; frame++) most = Math.max(most, values[frame * bands + band]!);
      const share = Math.min(1, Math.max(0, (most - LOWEST) / RANGE));
      if (share < 0.04) continue;
      ctx.globalAlpha = 0.85 * share * share;
      ctx.fillRect(x, top + 1 + (bands - 1 - band) * rowHeight, 1, rowHeight + 0.5);
    }
  }
  ctx.globalAlpha = 1;
}
