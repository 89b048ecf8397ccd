/** Time axis: bars above, seconds below, and the grid down all lanes. */

import type { View } from "../../document/track/model";
import { type MeterLike, secondsText } from "../../document/time/time_text";
import { beatLines, secondStep } from "../../geometry/grid";
import { type Lanes, songToX } from "../../geometry/viewport";
import { FONT, type Theme } from "../theme";

/** A song's bars, and its named places. */
export type MarkedSong = MeterLike & {
  markers: readonly { at_s: number; text: string }[];
  start_s?: number | null;
};

export function drawRuler(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  data: { view: View; song: MarkedSong },
  theme: Theme,
): void {
  const { view } = data;
  const scale = (lanes.width - lanes.gutter) / (view.end_s - view.start_s);
  ctx.fillStyle = theme.sheetOut;
  ctx.fillRect(0, 0, lanes.width, lanes.ruler);
  const bars = drawBars(ctx, lanes, data, theme);
  ctx.font = `600 12px ${FONT}`;
  ctx.textBaseline = "middle";
  ctx.fillStyle = theme.ink;
  for (const { x, bar } of bars) ctx.fillText(bar < 1 ? `−${1 - bar}` : String(bar), x + 4, 10);
  drawMarkers(ctx, lanes, data, theme);
  ctx.font = `11px ${FONT}`;
  ctx.fillStyle = theme.muted;
  const step = secondStep(scale);
  for (let t = Math.ceil(view.start_s / step) * step; t <= view.end_s; t += step) {
    const x = songToX(t, view, lanes);
    if (x >= lanes.gutter && t >= 0) ctx.fillText(secondsText(t + 1e-9, step < 1 ? 1 : 0), x + 4, 25);
  }
  ctx.fillText("bar", 10, 10);
  ctx.fillText(dayTime(data.song.start_s ?? 0) ?? "time", 10, 25);
}

/** The time of day at which a song begins, before its seconds; null when it has none. */
function dayTime(start_s: number): string | null {
  if (start_s === 0) return null;
  const [hours, minutes] = [Math.floor(start_s / 3600), Math.round((start_s % 3600) / 60)];
  return `${hours}:${String(minutes).padStart(2, "0")} +`;
}

/** The lines of bars and beats down a canvas; without a ruler from its top on.  Answers where bars begin. */
export function drawBars(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  { view, song }: { view: View; song: MeterLike },
  theme: Theme,
): { x: number; bar: number }[] {
  const scale = (lanes.width - lanes.gutter) / (view.end_s - view.start_s);
  const bars = [];
  for (const line of beatLines(view, song, scale)) {
    const x = Math.round(songToX(line.time_s, view, lanes));
    if (x < lanes.gutter) continue;
    ctx.fillStyle = line.isBar ? theme.lineStrong : theme.line;
    ctx.fillRect(x, line.isBar && lanes.ruler > 0 ? 4 : Math.max(0, lanes.ruler - 6), 1, lanes.height);
    if (line.isBar) bars.push({ x, bar: line.bar });
  }
  return bars;
}

/** Names of places in the song, each beside its bar's number with a foot at its very place. */
function drawMarkers(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  { view, song }: Parameters<typeof drawRuler>[2],
  theme: Theme,
): void {
  ctx.font = `600 12px ${FONT}`;
  for (const marker of song.markers) {
    const x = songToX(marker.at_s, view, lanes);
    if (x < lanes.gutter - 1 || x > lanes.width) continue;
    ctx.fillStyle = theme.select;
    ctx.beginPath();
    ctx.moveTo(x - 4, 0);
    ctx.lineTo(x + 4, 0);
    ctx.lineTo(x, 6);
    ctx.fill();
    ctx.fillText(marker.text, x + 30, 10);
  }
}
