/** The comp view's canvases. */

import { type RefObject, useEffect } from "react";
import type { CompRow } from "../document/track/comp";
import { store } from "../document/track/store";
import { COMP_LAYERS, type CompData, pitchesOf } from "../drawing/lanes/comp";
import { compPointer } from "../pointers/comp_pointer";
import { useLayers } from "./layers";

let shown: { rows: readonly CompRow[]; pitches: [number, number] } = { rows: [], pitches: [60, 61] };

function compData(): CompData | null {
  const { comp, compRows, curves, view, song, compHere, compRow, compSketch, listening, heardVersion } =
    store.getState();
  if (!comp || !curves || !song || compRows.length === 0) return null;
  if (shown.rows !== compRows) shown = { rows: compRows, pitches: pitchesOf(compRows) };
  return {
    comp,
    rows: compRows,
    curves,
    view,
    song,
    pitches: shown.pitches,
    here: compHere,
    row: compRow,
    heard: listening === "version" ? heardVersion : listening === "sung" ? (compRows[0]?.versionId ?? null) : null,
    sketch: compSketch,
  };
}

/** Paints the comp, and has the topmost canvas take the pointer. */
export function useComp(frame: RefObject<HTMLDivElement | null>): void {
  useLayers(frame, COMP_LAYERS, compData);
  useEffect(() => {
    const top = [...(frame.current?.querySelectorAll("canvas") ?? [])].at(-1);
    return top ? compPointer(top) : undefined;
  }, [frame]);
}
