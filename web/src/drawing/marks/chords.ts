/** Chords of the backing under the ruler, each where it begins. */

import type { ChordOut } from "../../document/schema";
import type { View } from "../../document/track/model";
import { type Lanes, songToX } from "../../geometry/viewport";
import { FONT, type Theme } from "../theme";

/** Below this a chord is a guess, and says so. */
const SURE = 0.4;
const NONE = "N";

export function drawChords(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  { view, chords }: { view: View; chords: readonly ChordOut[] },
  theme: Theme,
): void {
  ctx.font = `600 12px ${FONT}`;
  ctx.textBaseline = "middle";
  let free = lanes.gutter;
  for (const chord of chords) {
    const x = songToX(chord.start_s, view, lanes);
    if (chord.label === NONE || songToX(chord.end_s, view, lanes) < lanes.gutter || x > lanes.width) continue;
    ctx.fillStyle = theme.lineStrong;
    if (x >= lanes.gutter) ctx.fillRect(Math.round(x), lanes.ruler, 1, 18);
    const text = chordText(chord);
    const left = Math.max(x, lanes.gutter) + 5;
    if (left < free) continue; // too close to be read; the next one that has room is
    ctx.fillStyle = chord.confidence < SURE ? theme.muted : theme.ink;
    ctx.fillText(text, left, lanes.ruler + 10);
    free = left + ctx.measureText(text).width + 6;
  }
}

/** A chord as it is written, with a question mark while it is a guess. */
export function chordText(chord: Pick<ChordOut, "title" | "confidence">): string {
  return chord.confidence < SURE ? `${chord.title}?` : chord.title;
}
