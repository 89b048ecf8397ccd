/** How the open track lies on the one it is to follow: lines from where its notes start to where the lead's do. */

import { type Lanes, midiToY, songToX, timeToX } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import type { Theme } from "../theme";

const NEAR = 30; // pixels
const MOST_APART = 60; // pixels that the lead's place is drawn over or under the note at most

export function drawAlignment(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  const { alignment, view } = data;
  if (!alignment) return;
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, lanes.pitch.top, lanes.width - lanes.gutter, lanes.pitch.height);
  ctx.clip();
  ctx.lineWidth = 1.25;
  for (const pair of alignment.pairs) {
    if (Math.max(pair.lead_s, pair.follower_s) < view.start_s || Math.min(pair.lead_s, pair.follower_s) > view.end_s)
      continue;
    const note = noteNear(data, lanes, pair.follower_s);
    const lead = midiToY(pair.lead_midi, view, lanes);
    const own = note ?? lead;
    const y = own + Math.max(-MOST_APART, Math.min(MOST_APART, lead - own)) - 26;
    const [from, to] = [songToX(pair.follower_s, view, lanes), songToX(pair.lead_s, view, lanes)];
    ctx.strokeStyle = theme.select;
    ctx.beginPath();
    ctx.moveTo(from, own);
    ctx.lineTo(to, y);
    ctx.stroke();
    ctx.fillStyle = theme.select;
    ctx.beginPath();
    ctx.moveTo(to, y - 5);
    ctx.lineTo(to + 4, y);
    ctx.lineTo(to, y + 5);
    ctx.lineTo(to - 4, y);
    ctx.fill();
  }
  ctx.restore();
}

/** The height of the note that starts nearest to a moment of the song. */
function noteNear(data: SheetData, lanes: Lanes, song_s: number): number | null {
  const x = songToX(song_s, data.view, lanes);
  let best: number | null = null;
  let least = NEAR;
  for (const note of data.notes) {
    const apart = Math.abs(timeToX(note.start_s, data.view, lanes) - x);
    if (apart < least) [least, best] = [apart, note.target_midi];
  }
  return best === null ? null : midiToY(best, data.view, lanes);
}
