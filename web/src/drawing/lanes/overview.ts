/** The whole track in one strip: notes and flags in one layer, the visible window in another. */

import { sourceSpan } from "../../geometry/viewport";
import type { Layer } from "../layer";
import type { SheetData } from "../sheet_data";
import type { Theme } from "../theme";
import { fillWhole } from "../whole_pixels";

export const OVERVIEW_LAYERS: readonly Layer<SheetData>[] = [
  { name: "notes", needs: (data) => [data.notes, data.selection, data.analysis], paint: drawOverview },
  { name: "window", needs: (data) => [data.view, data.analysis], paint: drawWindow },
];

function drawOverview(
  ctx: CanvasRenderingContext2D,
  width: number,
  height: number,
  data: SheetData,
  theme: Theme,
): void {
  const duration = data.analysis.duration_s;
  const xOf = (t: number): number => (t / duration) * width;
  ctx.fillStyle = theme.sheet;
  ctx.fillRect(0, 0, width, height);
  const pitches = data.notes.map((note) => note.centre_midi);
  const low = Math.min(...pitches, 60) - 1;
  const high = Math.max(...pitches, 61) + 1;
  const yOf = (midi: number): number => 10 + ((high - midi) / (high - low)) * (height - 14);
  for (const note of data.notes) {
    const x = xOf(note.start_s);
    ctx.fillStyle = data.selection.has(note.id) ? theme.select : note.edited ? theme.tuned : theme.sung;
    fillWhole(ctx, x, yOf(note.tuned_midi) - 1, Math.max(1.5, xOf(note.end_s) - x - 0.5), 2.5);
    if (note.flags.length > 0) {
      ctx.fillStyle = theme.flag;
      ctx.beginPath();
      ctx.moveTo(x, 1);
      ctx.lineTo(x + 6, 1);
      ctx.lineTo(x + 3, 6.5);
      ctx.fill();
    }
  }
}

function drawWindow(ctx: CanvasRenderingContext2D, width: number, height: number, data: SheetData, theme: Theme): void {
  const duration = data.analysis.duration_s;
  const xOf = (t: number): number => (t / duration) * width;
  const [from, to] = sourceSpan(data.view);
  const a = xOf(Math.max(0, from));
  const b = xOf(Math.min(duration, to));
  ctx.fillStyle = theme.selectWash;
  ctx.fillRect(a, 0, b - a, height);
  ctx.strokeStyle = theme.select;
  ctx.lineWidth = 1.5;
  ctx.strokeRect(a + 0.75, 0.75, Math.max(3, b - a - 1.5), height - 1.5);
}
