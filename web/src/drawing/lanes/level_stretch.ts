/** Level stretches in the level lane: a cap along its top, dragged like a note, and a wash as far as it reaches. */

import { signed } from "../../document/music/pitch_names";
import { STRETCH_CAP_PX } from "../../geometry/level_stretch";
import { type Lanes, timeToX } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";
import { FONT, type Theme } from "../theme";

interface Shown {
  start_s: number;
  end_s: number;
  level_db: number;
  muted: boolean;
  chosen: boolean;
}

export function drawLevelStretches(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  { levelStretches, stretchChosen, sketch, view }: SheetData,
  theme: Theme,
): void {
  const dragged = sketch?.kind === "level_stretch" ? sketch : null;
  const still = levelStretches.filter((one) => one.id !== dragged?.id);
  const shown: Shown[] = still.map((one) => ({ ...one, chosen: one.id === stretchChosen }));
  if (dragged)
    shown.push({ ...dragged, level_db: dragged.level_db ?? 0, muted: dragged.level_db === null, chosen: true });
  for (const one of shown) {
    const x = timeToX(one.start_s, view, lanes);
    const end = timeToX(one.end_s, view, lanes);
    if (end > lanes.gutter && x < lanes.width) drawOne(ctx, lanes, theme, one, x, end);
  }
}

function drawOne(
  ctx: CanvasRenderingContext2D,
  lanes: Lanes,
  theme: Theme,
  { level_db, muted, chosen }: Shown,
  x: number,
  end: number,
): void {
  const { top, height } = lanes.level;
  const colour = chosen ? theme.select : theme.tuned;
  ctx.fillStyle = chosen ? theme.selectWash : theme.band;
  ctx.fillRect(x, top + 2, end - x, height - 3);
  ctx.fillStyle = colour;
  ctx.fillRect(x, top + 2, end - x, STRETCH_CAP_PX);
  ctx.fillRect(x, top + 2, 1.5, height - 3);
  ctx.fillRect(end - 1.5, top + 2, 1.5, height - 3);
  ctx.font = `650 11px ${FONT}`;
  const words = muted ? "silent" : `${signed(level_db, 1)} dB`;
  const width = ctx.measureText(words).width;
  const inside = end - Math.max(x, lanes.gutter) > width + 8;
  ctx.fillStyle = inside ? theme.sheet : colour;
  ctx.fillText(words, inside ? Math.max(x, lanes.gutter) + 4 : end + 3, top + 2 + STRETCH_CAP_PX / 2 + 0.5);
}
