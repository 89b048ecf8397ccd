/** Words under the threads; what was laid by hand is underlined, what is dragged goes along. */

import type { SheetData } from "../sheet_data";
import { WORD_TYPE, wordLabels } from "../../geometry/syllables";
import { type Lanes, timeToX } from "../../geometry/viewport";
import { FONT, type Theme } from "../theme";

export function drawWords(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  ctx.save();
  ctx.beginPath();
  ctx.rect(lanes.gutter, lanes.pitch.top, lanes.width - lanes.gutter, lanes.pitch.height);
  ctx.clip();
  ctx.font = WORD_TYPE;
  ctx.textBaseline = "middle";
  for (const { noteId, text, x, y, width, begins } of wordLabels(data, lanes)) {
    ctx.fillStyle = data.selection.has(noteId) ? theme.select : begins ? theme.ink : theme.muted;
    ctx.fillText(text, x, y);
    if (begins?.by_hand) ctx.fillRect(x, Math.round(y + 8), width, 1);
  }
  ctx.restore();
}

/** A syllable on its way to another note: that note's place, and the text at the pointer. */
export function drawWordDrag(ctx: CanvasRenderingContext2D, lanes: Lanes, data: SheetData, theme: Theme): void {
  if (data.sketch?.kind !== "syllable") return;
  const { text, x, y, toId } = data.sketch;
  const note = data.notes.find((one) => one.id === toId);
  ctx.fillStyle = theme.select;
  if (note) {
    const left = timeToX(note.start_s, data.view, lanes);
    ctx.fillRect(left, y + 11, Math.max(2, timeToX(note.end_s, data.view, lanes) - left), 2);
  }
  ctx.font = `650 13px ${FONT}`;
  ctx.textBaseline = "middle";
  ctx.fillText(text, x + 8, y);
}
