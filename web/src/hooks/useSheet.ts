import { type RefObject, useEffect } from "react";
import type { Curves, Preview } from "../document/track/model";
import type { ChordOut, SongOut } from "../document/schema";
import { store } from "../document/track/store";
import { OVERVIEW_LAYERS } from "../drawing/lanes/overview";
import { LAYERS } from "../drawing/sheet";
import type { SheetData } from "../drawing/sheet_data";
import { stretchIn } from "../commands/notes/level_stretches";
import { sungNow } from "../commands/lyrics/syllables";
import { useLayers } from "./layers";
import { pointerHandlers } from "../pointers/sheet_pointer";

const NO_CHORDS: readonly ChordOut[] = [];

function sheetData(): SheetData | null {
  const state = store.getState();
  const { analysis, song, selection, drag, view, preview } = state;
  const { content, curves } = state.ahead ?? state;
  if (!content || !curves || !analysis || !song) return null;
  return {
    notes: preview?.notes ?? content.notes,
    air: preview?.air ?? content.air,
    gaps: preview?.gaps ?? content.gaps,
    pins: preview?.pins ?? content.pins,
    glazes: preview?.glazes ?? content.glazes,
    borrows: preview?.borrows ?? content.borrows,
    levelStretches: preview?.level_stretches ?? content.level_stretches,
    stretchChosen: stretchIn(state)?.id ?? null,
    curves: preview ? tried(curves, preview) : curves,
    analysis,
    song: drawnOf(song),
    selection,
    airSelection: state.airSelection,
    spectrum: state.airAs === "spectrum" ? state.spectrum : null,
    strainLimit: state.strainLimit,
    sung: sungNow(),
    cuts: state.cuts,
    chords: state.showsChords ? state.chords : NO_CHORDS,
    beneath: state.beneath?.trackId === content.track_id ? null : state.beneath,
    alignment: state.alignment,
    ghost: state.ghost,
    drag,
    sketch: state.sketch,
    melodyLines: state.melodyLines,
    nearHandle: state.nearHandle,
    tool: state.tool,
    view,
    laneSizes: state.laneSizes,
  };
}

let drawn: SongOut | null = null;

/** The song, the same object as long as only its tracks move on: the sheet shows nothing of them. */
function drawnOf(song: SongOut): SongOut {
  const known = drawn;
  const same = (name: string): boolean =>
    name === "tracks" || Reflect.get(song, name) === (known && Reflect.get(known, name));
  if (!known || !Object.keys(song).every(same)) drawn = song;
  return drawn ?? song;
}

let last: { curves: Curves; preview: Preview; both: Curves } | null = null;

/** The curves with what is tried out; the same object for the same two. */
function tried(curves: Curves, preview: Preview): Curves {
  if (last?.curves !== curves || last.preview !== preview)
    last = { curves, preview, both: { ...curves, ...preview.curves } };
  return last.both;
}

/** Paints the sheet's layers, and has the topmost take the pointer. */
export function useSheetLayers(frame: RefObject<HTMLDivElement | null>): void {
  useLayers(frame, LAYERS, sheetData);
  useEffect(() => {
    const top = [...(frame.current?.querySelectorAll("canvas") ?? [])].at(-1);
    return top ? pointerHandlers(top) : undefined;
  }, [frame]);
}

export function useOverviewLayers(frame: RefObject<HTMLDivElement | null>): void {
  useLayers(frame, OVERVIEW_LAYERS, sheetData);
}
