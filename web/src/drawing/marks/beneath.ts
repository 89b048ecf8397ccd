/** The notes of another track: hollow rails behind those of the open one, with the interval between the two. */

import { intervalName } from "../../document/music/intervals";
import { type Lanes, midiToY, songToX, timeToX } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";

const HEIGHT = 7;

export function drawBeneath(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { beneath, view } = data;
  if (!beneath) return;
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, lanes.pitch.top, lanes.width - lanes.gutter, lanes.pitch.height);
  ctx.clip();
  ctx.strokeStyle = theme.sung;
  ctx.lineWidth = 1;
  for (const note of beneath.notes) {
    if (note.end_s < view.start_s || note.start_s > view.end_s) continue;
    const [from, to] = [songToX(note.start_s, view, lanes), songToX(note.end_s, view, lanes)];
    ctx.beginPath();
    ctx.roundRect(from, midiToY(note.midi, view, lanes) - HEIGHT / 2, Math.max(to - from, 2), HEIGHT, 3);
    ctx.stroke();
  }
  drawIntervals(ctx, lanes, data, theme);
  ctx.restore();
}

/** Under each note of the open track, how far it is from the one that sounds in its middle. */
function drawIntervals(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  ctx.font = `11px ${FONT}`;
  ctx.textBaseline = "top";
  ctx.fillStyle = theme.muted;
  for (const note of data.notes) {
    const [from, to] = [timeToX(note.start_s, data.view, lanes), timeToX(note.end_s, data.view, lanes)];
    if (to < lanes.gutter || from > lanes.width) continue;
    const middle = (from + to) / 2;
    const other = data.beneath?.notes.find(
      (one) => songToX(one.start_s, data.view, lanes) <= middle && songToX(one.end_s, data.view, lanes) > middle,
    );
    if (!other) continue;
    const words = intervalName(other.midi, note.tuned_midi);
    if (ctx.measureText(words).width > to - from) continue;
    ctx.fillText(words, Math.max(from, lanes.gutter + 2), midiToY(note.target_midi, data.view, lanes) + 8);
  }
}
