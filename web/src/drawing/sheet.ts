/** The layers of the sheet, back to front: each is painted anew only when something that it shows is another. */

import { layLanes } from "../geometry/viewport";
import { drawAirFrame, drawAirLane } from "./lanes/air_lane";
import { drawLevelFrame, drawLevelLane } from "./lanes/level_lane";
import { drawChords } from "./marks/chords";
import { drawCuts } from "./marks/cuts";
import { drawAlignment } from "./marks/alignment";
import { drawBeneath } from "./marks/beneath";
import { drawBorrows } from "./marks/borrow";
import { drawGlazes } from "./marks/glaze";
import { drawKeyDrag, drawKeys } from "./marks/key_marks";
import { drawDragged, drawNotes, drawThreads } from "./lanes/pitch_lane";
import { drawLines } from "./lanes/pitch_lines";
import { drawRuler } from "./lanes/ruler";
import type { Layer } from "./layer";
import type { SheetData } from "./sheet_data";
import { drawSketch } from "./marks/sketch";
import { drawWordDrag, drawWords } from "./marks/syllables";
import { drawMoved, drawTimeDrag } from "./marks/moved";

/** A gesture under way in the air or level lane, which shows the events and notes as they would be. */
function inLanes({ sketch }: SheetData): unknown {
  return sketch?.kind === "level" || sketch?.kind === "air_edge" || sketch?.kind === "level_stretch" ? sketch : null;
}

export const LAYERS: readonly Layer<SheetData>[] = [
  {
    name: "grid",
    needs: (data) => [data.view, data.song, data.laneSizes, data.chords],
    paint: (ctx, width, height, data, theme) => {
      const lanes = layLanes(width, height, data.laneSizes);
      ctx.fillStyle = theme.sheet;
      ctx.fillRect(0, 0, width, height);
      drawRuler(ctx, lanes, data, theme);
      drawAirFrame(ctx, lanes, theme);
      drawLevelFrame(ctx, lanes, theme);
      drawLines(ctx, lanes, data, theme);
      drawKeys(ctx, lanes, data, theme);
      drawChords(ctx, lanes, data, theme);
      ctx.fillStyle = theme.lineStrong;
      ctx.fillRect(lanes.gutter - 0.5, lanes.ruler, 1, height);
    },
  },
  {
    name: "notes",
    needs: (data) => [
      data.view,
      data.laneSizes,
      data.song,
      data.notes,
      data.air,
      data.gaps,
      data.pins,
      data.glazes,
      data.borrows,
      data.curves,
      data.selection,
      data.airSelection,
      data.levelStretches,
      data.stretchChosen,
      data.spectrum,
      data.strainLimit,
      data.sung,
      data.cuts,
      data.beneath,
      inLanes(data),
    ],
    paint: (ctx, width, height, data, theme) => {
      const lanes = layLanes(width, height, data.laneSizes);
      drawAirLane(ctx, lanes, data, theme);
      drawLevelLane(ctx, lanes, data, theme);
      drawBeneath(ctx, lanes, data, theme);
      drawNotes(ctx, lanes, data, theme);
      drawCuts(ctx, lanes, data, theme);
      drawMoved(ctx, lanes, data, theme);
      drawGlazes(ctx, lanes, data, theme);
      drawBorrows(ctx, lanes, data, theme);
      drawWords(ctx, lanes, data, theme);
    },
  },
  {
    name: "threads",
    needs: (data) => [data.view, data.laneSizes, data.notes, data.curves, data.selection, data.ghost],
    paint: (ctx, width, height, data, theme) => drawThreads(ctx, layLanes(width, height, data.laneSizes), data, theme),
  },
  {
    name: "overlay",
    needs: (data) => [
      data.view,
      data.laneSizes,
      data.song,
      data.notes,
      data.selection,
      data.drag,
      data.sketch,
      data.nearHandle,
      data.tool,
      data.alignment,
      data.melodyLines,
    ],
    paint: (ctx, width, height, data, theme) => {
      const lanes = layLanes(width, height, data.laneSizes);
      drawAlignment(ctx, lanes, data, theme);
      drawDragged(ctx, lanes, data, theme);
      drawTimeDrag(ctx, lanes, data, theme);
      drawKeyDrag(ctx, lanes, data, theme);
      drawSketch(ctx, lanes, data, theme);
      drawWordDrag(ctx, lanes, data, theme);
    },
  },
];
