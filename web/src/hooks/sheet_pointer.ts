/** Pointer and wheel on the sheet: select, drag, marquee, pan, zoom, place the cursor. */

import type { NoteOut } from "../document/model";
import { store } from "../document/store";
import { beginDrag, dragOperation, dragTo, type Grain, type NoteDrag } from "../pointing/drag_note";
import { edgeSketch, extendLine, glideSketch, sketchOperation } from "../pointing/shape_note";
import { type Handle, handleAt, handlesOf } from "../geometry/handles";
import { levelNoteAt } from "../geometry/air";
import { laneSketch, type LaneDrag } from "../pointing/shape_level";
import { noteAt, notesIn } from "../geometry/hit_test";
import {
  clampView,
  layLanes,
  panPitch,
  panTime,
  xToSong,
  xToTime,
  yToMidi,
  zoomPitch,
  zoomTime,
} from "../geometry/viewport";
import { airUnder, beginInAir, releaseInAir } from "./air_pointer";
import { edit, select } from "./editing";
import { takeSplit, proposeSplitAt, pointerPlace } from "./splitting";
import { play } from "./playing";

type Doing =
  | { kind: "note"; drag: NoteDrag; leaves: boolean }
  | { kind: "handle"; handle: Handle; note: NoteOut; x: number; y: number }
  | { kind: "draw" }
  | { kind: "rub"; from_s: number }
  | { kind: "marquee"; x: number; y: number; box: HTMLDivElement; before: ReadonlySet<string> }
  | { kind: "lane"; drag: LaneDrag }
  | { kind: "ruler" };

function noteUnder(x: number, y: number, width: number, height: number): NoteOut | null {
  const { content, curves, view } = store.getState();
  if (!content || !curves) return null;
  const lanes = layLanes(width, height);
  if (y >= lanes.level.top) return levelNoteAt(x, content.notes, view, lanes);
  if (y >= lanes.air.top) return null;
  return noteAt(x, y, content.notes, curves, view, lanes);
}

/** The handle of the selected note under a point. */
function handleUnder(x: number, y: number, width: number, height: number): { handle: Handle; note: NoteOut } | null {
  const { content, selection, view } = store.getState();
  if (!content || selection.size !== 1) return null;
  const note = content.notes.find((candidate) => selection.has(candidate.id));
  if (!note) return null;
  const lanes = layLanes(width, height);
  const handle = handleAt(x, y, handlesOf(note, content.notes, view, lanes));
  return handle ? { handle, note } : null;
}

/** Shift moves finer, Ctrl coarser, everywhere. */
function grainOf(event: PointerEvent): Grain {
  return event.shiftKey ? "fine" : event.ctrlKey || event.metaKey ? "coarse" : "own";
}

/** Connect a canvas; returns what disconnects it. */
export function pointerHandlers(canvas: HTMLCanvasElement): () => void {
  let doing: Doing | null = null;

  const place = (event: PointerEvent | WheelEvent): { x: number; y: number; w: number; h: number } => {
    const box = canvas.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top, w: box.width, h: box.height };
  };

  const setCursor = (x: number, w: number, h: number): void => {
    const state = store.getState();
    const at = Math.max(0, xToSong(x, state.view, layLanes(w, h)));
    store.setState({ cursor_s: at });
    if (state.playing) void play(at);
  };

  const down = (event: PointerEvent): void => {
    if (event.button !== 0) return;
    const { x, y, w, h } = place(event);
    const lanes = layLanes(w, h);
    const state = store.getState();
    if (x < lanes.gutter) return;
    canvas.setPointerCapture(event.pointerId);
    canvas.focus({ preventScroll: true });
    if (y < lanes.ruler) {
      doing = { kind: "ruler" };
      return setCursor(x, w, h);
    }
    const inPitch = y < lanes.air.top;
    if (state.sketch?.kind === "split") return void takeSplit();
    if (inPitch && state.tool === "draw") {
      doing = { kind: "draw" };
      const at: [number, number] = [xToTime(x, state.view, lanes), yToMidi(y, state.view, lanes)];
      return store.setState({ sketch: { kind: "line", points: [at], fine: event.shiftKey } });
    }
    if (inPitch && state.tool === "rub") {
      const at = xToTime(x, state.view, lanes);
      doing = { kind: "rub", from_s: at };
      return store.setState({ sketch: { kind: "rub", start_s: at, end_s: at } });
    }
    const held = inPitch ? handleUnder(x, y, w, h) : null;
    if (held) {
      doing = { kind: "handle", ...held, x, y };
      return;
    }
    if (!inPitch && y < lanes.level.top) {
      const drag = beginInAir(event, airUnder(x, y, w, h), xToTime(x, state.view, lanes), y);
      doing = drag ? { kind: "lane", drag } : null;
      return;
    }
    const note = noteUnder(x, y, w, h);
    if (note) {
      const leaves = event.shiftKey && state.selection.has(note.id);
      if (event.shiftKey && !leaves) select([note], { add: true });
      else if (!state.selection.has(note.id))
        store.setState({ selection: new Set([note.id]), airSelection: new Set() });
      const ids = [...store.getState().selection];
      const perPixel = (state.view.high - state.view.low) / lanes.pitch.height;
      if (inPitch) doing = { kind: "note", drag: beginDrag(note, ids, y, perPixel), leaves };
      else doing = { kind: "lane", drag: { kind: "level", of: "note", ids, fromY: y, moved: false } };
      return;
    }
    const box = document.createElement("div");
    box.className = "marquee";
    canvas.parentElement?.append(box);
    const before = event.shiftKey ? state.selection : new Set<string>();
    doing = { kind: "marquee", x, y, box, before };
    store.setState({ selection: before, airSelection: new Set() });
    if (!event.shiftKey && !state.playing) setCursor(x, w, h);
  };

  const move = (event: PointerEvent): void => {
    const { x, y, w, h } = place(event);
    const state = store.getState();
    if (!doing) {
      const lanes = layLanes(w, h);
      pointerPlace.time_s = xToTime(x, state.view, lanes);
      if (state.sketch?.kind === "split") void proposeSplitAt(pointerPlace.time_s, event.altKey);
      canvas.style.cursor = cursorOver(x, y, w, h);
      const nearHandle = handleUnder(x, y, w, h)?.handle.kind ?? null;
      if (nearHandle !== state.nearHandle) store.setState({ nearHandle });
      return;
    }
    if (doing.kind === "handle") {
      const time_s = xToTime(x, state.view, layLanes(w, h));
      const { handle, note } = doing;
      const sketch =
        handle.kind === "glide" ? glideSketch(note, x - doing.x, y - doing.y) : edgeSketch(note, handle.kind, time_s);
      return store.setState({ sketch });
    }
    if (doing.kind === "lane") {
      const time_s = xToTime(x, state.view, layLanes(w, h));
      return store.setState({ sketch: laneSketch(doing.drag, { time_s, y, grain: grainOf(event) }) });
    }
    if (doing.kind === "draw" && state.sketch?.kind === "line") {
      const lanes = layLanes(w, h);
      const to: [number, number] = [xToTime(x, state.view, lanes), yToMidi(y, state.view, lanes)];
      const points = extendLine(state.sketch.points, to, event.altKey);
      return store.setState({ sketch: { kind: "line", points, fine: event.shiftKey } });
    }
    if (doing.kind === "rub") {
      const to = xToTime(x, state.view, layLanes(w, h));
      const [start_s, end_s] = [Math.min(doing.from_s, to), Math.max(doing.from_s, to)];
      return store.setState({ sketch: { kind: "rub", start_s, end_s } });
    }
    if (doing.kind === "ruler") setCursor(x, w, h);
    else if (doing.kind === "note" && state.song) {
      store.setState({ drag: dragTo(doing.drag, y, state.song, grainOf(event)) });
    } else if (doing.kind === "marquee" && state.content) {
      const { box } = doing;
      box.style.left = `${Math.min(x, doing.x)}px`;
      box.style.top = `${Math.min(y, doing.y)}px`;
      box.style.width = `${Math.abs(x - doing.x)}px`;
      box.style.height = `${Math.abs(y - doing.y)}px`;
      const touched = notesIn(
        { x0: doing.x, y0: doing.y, x1: x, y1: y },
        state.content.notes,
        state.view,
        layLanes(w, h),
      );
      store.setState({ selection: new Set([...doing.before, ...touched]) });
    }
  };

  const cursorOver = (x: number, y: number, w: number, h: number): string => {
    const lanes = layLanes(w, h);
    if (y < lanes.ruler) return "text";
    if (x <= lanes.gutter) return "default";
    const { tool } = store.getState();
    if (y < lanes.air.top && tool !== "select") return "crosshair";
    if (y < lanes.air.top && handleUnder(x, y, w, h)) return "ew-resize";
    const air = airUnder(x, y, w, h);
    if (air?.side) return "ew-resize";
    return air || noteUnder(x, y, w, h) ? "ns-resize" : "default";
  };

  const finish = (): void => {
    if (doing?.kind === "marquee") doing.box.remove();
    doing = null;
    store.setState({ drag: null, sketch: null });
  };

  const up = (event: PointerEvent): void => {
    const { drag: preview, sketch } = store.getState();
    if (doing?.kind === "lane" && sketch?.kind === "stretch") {
      doing = null;
      return store.setState({ sketch: { ...sketch, done: true } });
    }
    if (doing?.kind === "lane" && !sketch) releaseInAir(doing.drag, event);
    if (doing && sketch && sketch.kind !== "split") {
      const operation = sketchOperation(sketch, { follow: !event.altKey });
      finish();
      if (operation) void edit(operation);
      return;
    }
    if (!doing) return;
    if (doing.kind === "note" && preview) {
      void edit(dragOperation(doing.drag, preview));
    } else if (doing.kind === "note" && !doing.drag.moved && doing.leaves) {
      select([doing.drag.note], { add: true });
    } else if (doing.kind === "note" && !doing.drag.moved && store.getState().selection.size > 1 && !event.shiftKey) {
      store.setState({ selection: new Set([doing.drag.note.id]) });
    }
    finish();
  };

  const escape = (event: KeyboardEvent): void => {
    if (event.key === "Escape" && (doing || store.getState().sketch)) {
      event.preventDefault();
      event.stopPropagation();
      finish();
    }
  };

  const wheel = (event: WheelEvent): void => {
    event.preventDefault();
    const { x, y, w, h } = place(event);
    const { view, analysis } = store.getState();
    if (!analysis) return;
    const lanes = layLanes(w, h);
    const seconds = (view.end_s - view.start_s) / (lanes.width - lanes.gutter);
    let next = view;
    if (event.ctrlKey || event.metaKey) {
      const factor = Math.exp(Math.max(-60, Math.min(60, event.deltaY)) * 0.006);
      next = event.shiftKey
        ? zoomPitch(view, yToMidi(y, view, lanes), factor)
        : zoomTime(view, xToSong(x, view, lanes), factor);
    } else if (event.altKey || (y > lanes.ruler && y < lanes.air.top && x < lanes.gutter)) {
      next = panPitch(view, (-event.deltaY * (view.high - view.low)) / lanes.pitch.height);
    } else {
      next = panTime(view, (Math.abs(event.deltaX) > Math.abs(event.deltaY) ? event.deltaX : event.deltaY) * seconds);
    }
    store.setState({ view: clampView(next, analysis.duration_s) });
  };

  canvas.addEventListener("pointerdown", down);
  canvas.addEventListener("pointermove", move);
  canvas.addEventListener("pointerup", up);
  canvas.addEventListener("pointercancel", finish);
  canvas.addEventListener("wheel", wheel, { passive: false });
  window.addEventListener("keydown", escape, true);
  return () => {
    canvas.removeEventListener("pointerdown", down);
    canvas.removeEventListener("pointermove", move);
    canvas.removeEventListener("pointerup", up);
    canvas.removeEventListener("pointercancel", finish);
    canvas.removeEventListener("wheel", wheel);
    window.removeEventListener("keydown", escape, true);
  };
}
