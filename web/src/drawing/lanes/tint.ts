/** Tints between the threads: what the notes' own gestures change, and what glazes add to it. */

import { extremesIn } from "../../geometry/extremes";
import { eachColumn, voicedRuns } from "../../geometry/polyline";
import { type Lanes, midiToY, timeToX, xToTime } from "../../geometry/viewport";
import { frameRange, isFar, SAME } from "./frames";
import type { SheetData } from "../sheet_data";
import type { Theme } from "../theme";
import { fillWhole } from "../whole_pixels";

const beforeGlaze = new WeakMap<Float32Array, Float32Array>();

/** The tuned thread without what glazes add. */
function underGlaze({ tuned, glaze }: SheetData["curves"]): Float32Array {
  const known = beforeGlaze.get(tuned);
  if (known) return known;
  const under = tuned.map((pitch, frame) => pitch - glaze[frame]!);
  beforeGlaze.set(tuned, under);
  return under;
}

export function drawTints(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { sung, tuned } = data.curves;
  const glazed = data.glazes.length > 0;
  const under = glazed ? underGlaze(data.curves) : tuned;
  ctx.fillStyle = theme.tint;
  drawTint(ctx, lanes, data, sung, under);
  if (!glazed) return;
  ctx.fillStyle = theme.glaze;
  drawTint(ctx, lanes, data, under, tuned);
}

/** The tint from afar: in every column of pixels from the lowest to the highest of both threads, where they differ. */
function drawTintColumns(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  sung: Float32Array,
  tuned: Float32Array,
): void {
  const { hop_s } = data.curves;
  const frameAt = (x: number): number => xToTime(x, data.view, lanes) / hop_s;
  eachColumn([lanes.gutter, lanes.width], sung.length, frameAt, (x, from, to) => {
    const [sungLow, sungHigh] = extremesIn(sung, from, to);
    const [low, high] = extremesIn(tuned, from, to);
    if (!(Math.abs(low - sungLow) > SAME || Math.abs(high - sungHigh) > SAME)) return;
    const top = midiToY(Math.max(high, sungHigh), data.view, lanes);
    fillWhole(ctx, x, top, 1, midiToY(Math.min(low, sungLow), data.view, lanes) - top);
  });
}

function drawTint(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: SheetData,
  sung: Float32Array,
  tuned: Float32Array,
): void {
  const { view, curves } = data;
  const [from, to] = frameRange(data);
  const { hop_s } = curves;
  const step = Math.max(1, Math.floor((to - from) / (2 * (lanes.width - lanes.gutter))));
  if (isFar(data, lanes)) return drawTintColumns(ctx, lanes, data, sung, tuned);
  for (const [a, b] of voicedRuns(sung, from, to)) {
    let open = false;
    const forward: [number, number, number][] = [];
    const close = (): void => {
      if (forward.length > 1) {
        ctx.beginPath();
        for (const [x, y] of forward) ctx.lineTo(x, y);
        for (const [x, , y] of forward.toReversed()) ctx.lineTo(x, y);
        ctx.closePath();
        ctx.fill();
      }
      forward.length = 0;
      open = false;
    };
    for (let frame = a; frame < b; frame += step) {
      if (Math.abs(tuned[frame]! - sung[frame]!) > SAME) {
        forward.push([
          timeToX(frame * hop_s, view, lanes),
          midiToY(sung[frame]!, view, lanes),
          midiToY(tuned[frame]!, view, lanes),
        ]);
        open = true;
      } else if (open) close();
    }
    close();
  }
}
