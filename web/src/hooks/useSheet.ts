import { type RefObject, useEffect } from "react";
import { store } from "../document/store";
import { cancelPaint, requestPaint, sharpContext } from "../drawing/frame_scheduler";
import { drawOverview } from "../drawing/overview";
import { drawSheet } from "../drawing/sheet";
import type { SheetData } from "../drawing/sheet_data";
import { DAYLIGHT, NIGHT, type Theme } from "../drawing/theme";
import { coveredBy } from "../geometry/hit_test";
import { layLanes, midiToY, songToX, sourceSpan, timeToX, xToSong } from "../geometry/viewport";
import { pointerHandlers } from "./sheet_pointer";
import { transport } from "./playing";

function sheetData(): SheetData | null {
  const state = store.getState();
  const { content, curves, analysis, song, selection, drag, view, preview } = state;
  if (!content || !curves || !analysis || !song) return null;
  return {
    notes: preview?.notes ?? content.notes,
    air: preview?.air ?? content.air,
    gaps: preview?.gaps ?? content.gaps,
    curves: preview ? { ...curves, ...preview.curves } : curves,
    analysis,
    song,
    selection,
    airSelection: state.airSelection,
    spectrum: state.airAs === "spectrum" ? state.spectrum : null,
    strainLimit: state.strainLimit,
    ghost: state.ghost,
    drag,
    sketch: state.sketch,
    nearHandle: state.nearHandle,
    view,
  };
}

function themeNow(): Theme {
  return store.getState().night ? NIGHT : DAYLIGHT;
}

/** Keeps a canvas painted with `paint`, at the size of its parent. */
function usePainted(
  canvas: RefObject<HTMLCanvasElement | null>,
  paint: (ctx: CanvasRenderingContext2D, w: number, h: number) => void,
): void {
  useEffect(() => {
    const element = canvas.current;
    const parent = element?.parentElement;
    if (!element || !parent) return;
    const draw = (): void => {
      const { clientWidth: w, clientHeight: h } = parent;
      if (w > 0 && h > 0) paint(sharpContext(element, w, h), w, h);
    };
    const ask = (): void => requestPaint(draw);
    const watch = new ResizeObserver(ask);
    watch.observe(parent);
    const stop = store.subscribe(ask);
    void document.fonts.ready.then(ask);
    ask();
    return () => {
      stop();
      watch.disconnect();
      cancelPaint(draw);
    };
  }, [canvas, paint]);
}

function paintSheet(ctx: CanvasRenderingContext2D, width: number, height: number): void {
  const data = sheetData();
  if (data) drawSheet(ctx, width, height, data, themeNow());
}

function paintOverview(ctx: CanvasRenderingContext2D, width: number, height: number): void {
  const data = sheetData();
  if (data) drawOverview(ctx, width, height, data, themeNow());
}

export function useSheetCanvas(canvas: RefObject<HTMLCanvasElement | null>): void {
  usePainted(canvas, paintSheet);
  useEffect(() => {
    const element = canvas.current;
    return element ? pointerHandlers(element) : undefined;
  }, [canvas]);
}

export function useOverviewCanvas(canvas: RefObject<HTMLCanvasElement | null>): void {
  usePainted(canvas, paintOverview);
}

const STRIP_GAP = 56;
const STRIP_ASIDE = 14;

/** Keeps an element beside a note, inside the sheet, where it covers least of the threads and of other notes. */
export function useNotePlace(element: RefObject<HTMLDivElement | null>, noteId: string | null): void {
  useEffect(() => {
    if (noteId === null) return;
    const place = (): void => {
      const box = element.current;
      const parent = box?.parentElement;
      const { content, view, curves } = store.getState();
      const notes = content?.notes ?? [];
      const note = notes.find((candidate) => candidate.id === noteId);
      if (!box || !parent || !note || !curves) return;
      const lanes = layLanes(parent.clientWidth, parent.clientHeight);
      const middle = timeToX((note.start_s + note.end_s) / 2, view, lanes);
      const places = [note.target_midi, note.centre_midi].map((midi) => midiToY(midi, view, lanes));
      const size = { width: box.offsetWidth, height: box.offsetHeight };
      const inside = (x: number): number => Math.min(Math.max(x, lanes.gutter + 4), lanes.width - size.width - 4);
      const lefts = [
        middle - size.width / 2,
        timeToX(note.end_s, view, lanes) + STRIP_ASIDE,
        timeToX(note.start_s, view, lanes) - size.width - STRIP_ASIDE,
      ];
      const tops = [Math.max(...places) + STRIP_GAP, Math.min(...places) - STRIP_GAP - size.height];
      let best = { left: inside(lefts[0]!), top: lanes.ruler + 4, cost: Infinity };
      for (const left of lefts.map(inside)) {
        for (const top of tops) {
          if (top <= lanes.ruler || top + size.height >= lanes.air.top - 4) continue;
          const cost = coveredBy({ left, top, ...size }, notes, noteId, curves, view, lanes);
          if (cost < best.cost) best = { left, top, cost };
        }
      }
      const { left, top } = best;
      const [from, to] = sourceSpan(view);
      const seen = note.end_s > from && note.start_s < to;
      box.style.setProperty("transform", `translate(${Math.round(left)}px, ${Math.round(top)}px)`);
      box.style.setProperty("visibility", seen ? "visible" : "hidden");
    };
    place();
    const frame = requestAnimationFrame(place);
    const stop = store.subscribe(place);
    window.addEventListener("resize", place);
    return () => {
      cancelAnimationFrame(frame);
      stop();
      window.removeEventListener("resize", place);
    };
  }, [element, noteId]);
}

/** Moves the playhead as a transform, so that playing repaints nothing. */
export function usePlayhead(line: RefObject<HTMLDivElement | null>): void {
  useEffect(() => {
    let frame = 0;
    const move = (): void => {
      frame = requestAnimationFrame(move);
      const element = line.current;
      const parent = element?.parentElement;
      if (!element || !parent) return;
      const state = store.getState();
      const at = state.playing ? transport.position : state.cursor_s;
      const lanes = layLanes(parent.clientWidth, parent.clientHeight);
      const x = songToX(at, state.view, lanes);
      element.style.display = x >= lanes.gutter && x <= lanes.width ? "block" : "none";
      element.style.transform = `translateX(${x}px)`;
      if (state.playing && x > lanes.width - 20) followPlayhead(at, lanes.width);
    };
    frame = requestAnimationFrame(move);
    return () => cancelAnimationFrame(frame);
  }, [line]);
}

function followPlayhead(at: number, width: number): void {
  const { view } = store.getState();
  const length = view.end_s - view.start_s;
  if (at < view.end_s + length && xToSong(width, view, layLanes(width, 400)) <= at + length * 0.2) {
    store.setState({ view: { ...view, start_s: at - length * 0.06, end_s: at + length * 0.94 } });
  }
}
