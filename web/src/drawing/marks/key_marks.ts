/** Where the key changes: a mark on the ruler, a line down the pitch lane, and the key's name at its top. */

import { keySpans, type Keyed } from "../../document/music/pitch_names";
import type { View } from "../../document/track/model";
import { type Lanes, songToX } from "../../geometry/viewport";
import { drawLabel } from "./sketch";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";

const HEAD = 4;
const TITLE_PX = 11;
const UNDER_CHORDS = 20; // pixels that chords take at the top

export function drawKeys(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  { view, song, chords }: { view: View; song: Keyed; chords: readonly unknown[] },
  theme: Theme,
): void {
  const spans = keySpans(song);
  if (spans.length < 2) return;
  const top = lanes.pitch.top + (chords.length > 0 ? UNDER_CHORDS : 0);
  for (const { key, end_s } of spans) {
    const at = songToX(key.start_s, view, lanes);
    const to = Math.min(lanes.width, songToX(end_s, view, lanes));
    if (to <= lanes.gutter || at > lanes.width) continue;
    if (at >= lanes.gutter) drawMark(ctx, lanes, theme, at);
    drawTitle(ctx, theme, key.title, top, Math.max(at, lanes.gutter), to);
  }
}

function drawMark(ctx: CanvasRenderingContext2D, lanes: Lanes, theme: Theme, x: number): void {
  ctx.fillStyle = theme.ink;
  ctx.beginPath();
  ctx.moveTo(x - HEAD, lanes.ruler - HEAD);
  ctx.lineTo(x, lanes.ruler - 2 * HEAD);
  ctx.lineTo(x + HEAD, lanes.ruler - HEAD);
  ctx.lineTo(x, lanes.ruler);
  ctx.fill();
  ctx.fillRect(x - 0.5, lanes.ruler, 1, lanes.pitch.height);
}

/** The key's name, where there is room for it before the next one. */
function drawTitle(
  ctx: CanvasRenderingContext2D,
  theme: Theme,
  title: string,
  top: number,
  from: number,
  to: number,
): void {
  ctx.font = `600 ${TITLE_PX}px ${FONT}`;
  const width = ctx.measureText(title).width + 8;
  if (width > to - from) return;
  ctx.fillStyle = theme.sheetOut;
  ctx.fillRect(from + 1, top, width, TITLE_PX + 6);
  ctx.fillStyle = theme.ink;
  ctx.textBaseline = "middle";
  ctx.fillText(title, from + 5, top + TITLE_PX / 2 + 3);
}

/** A change of key under a drag along the ruler. */
export function drawKeyDrag(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  if (data.sketch?.kind !== "key") return;
  const x = songToX(data.sketch.at_s, data.view, lanes);
  ctx.fillStyle = theme.select;
  ctx.fillRect(x - 0.75, 0, 1.5, lanes.air.top);
  drawLabel(ctx, lanes, theme, data.sketch.words, x + 4, lanes.pitch.top + 4);
}
