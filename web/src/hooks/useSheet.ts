import { type RefObject, useEffect } from "react";
import type { Curves, Preview } from "../document/model";
import { store } from "../document/store";
import { cancelPaint, requestPaint, sharpContext } from "../drawing/frame_scheduler";
import { OVERVIEW_LAYERS } from "../drawing/overview";
import { type Layer, LAYERS } from "../drawing/sheet";
import type { SheetData } from "../drawing/sheet_data";
import { DAYLIGHT, NIGHT, type Theme } from "../drawing/theme";
import { pointerHandlers } from "./sheet_pointer";

function sheetData(): SheetData | null {
  const state = store.getState();
  const { content, curves, analysis, song, selection, drag, view, preview } = state;
  if (!content || !curves || !analysis || !song) return null;
  return {
    notes: preview?.notes ?? content.notes,
    air: preview?.air ?? content.air,
    gaps: preview?.gaps ?? content.gaps,
    pins: preview?.pins ?? content.pins,
    glazes: preview?.glazes ?? content.glazes,
    curves: preview ? tried(curves, preview) : curves,
    analysis,
    song,
    selection,
    airSelection: state.airSelection,
    spectrum: state.airAs === "spectrum" ? state.spectrum : null,
    strainLimit: state.strainLimit,
    cuts: state.cuts,
    ghost: state.ghost,
    drag,
    sketch: state.sketch,
    nearHandle: state.nearHandle,
    tool: state.tool,
    view,
  };
}

let last: { curves: Curves; preview: Preview; both: Curves } | null = null;

/** The curves with what is tried out; the same object for the same two. */
function tried(curves: Curves, preview: Preview): Curves {
  if (last?.curves !== curves || last.preview !== preview)
    last = { curves, preview, both: { ...curves, ...preview.curves } };
  return last.both;
}

function themeNow(): Theme {
  return store.getState().night ? NIGHT : DAYLIGHT;
}

/** Keeps the canvases of a frame painted, one a layer, each only when what it shows has changed. */
function useLayers(frame: RefObject<HTMLDivElement | null>, layers: readonly Layer[]): void {
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const canvases = [...element.querySelectorAll("canvas")];
    const shown = new Map<Layer, readonly unknown[]>();
    const draw = (): void => {
      const { clientWidth: w, clientHeight: h } = element;
      const data = sheetData();
      if (w === 0 || h === 0 || !data) return;
      const theme = themeNow();
      layers.forEach((layer, i) => {
        const needs = [w, h, window.devicePixelRatio, theme, fontsTurn, ...layer.needs(data)];
        const before = shown.get(layer);
        if (before?.every((value, at) => value === needs[at])) return;
        shown.set(layer, needs);
        const ctx = sharpContext(canvases[i]!, w, h);
        ctx.clearRect(0, 0, w, h);
        layer.paint(ctx, w, h, data, theme);
      });
    };
    const ask = (): void => requestPaint(draw);
    const watch = new ResizeObserver(ask);
    watch.observe(element);
    const stop = store.subscribe(ask);
    void document.fonts.ready.then(() => {
      fontsTurn += 1;
      ask();
    });
    ask();
    return () => {
      stop();
      watch.disconnect();
      cancelPaint(draw);
    };
  }, [frame, layers]);
}

/** Counts up when fonts have come, so that words are drawn anew in theirs. */
let fontsTurn = 0;

/** Paints the sheet's layers, and has the topmost take the pointer. */
export function useSheetLayers(frame: RefObject<HTMLDivElement | null>): void {
  useLayers(frame, LAYERS);
  useEffect(() => {
    const top = [...(frame.current?.querySelectorAll("canvas") ?? [])].at(-1);
    return top ? pointerHandlers(top) : undefined;
  }, [frame]);
}

export function useOverviewLayers(frame: RefObject<HTMLDivElement | null>): void {
  useLayers(frame, OVERVIEW_LAYERS);
}
