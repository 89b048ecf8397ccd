/** Connects pointer and wheel on the sheet to its gestures. */

import { store } from "../document/track/store";
import {
  clampView,
  layLanes,
  panPitch,
  wheelTime,
  wheelZoom,
  xToSong,
  xToTime,
  yToMidi,
  zoomPitch,
} from "../geometry/viewport";
import type { At, Ending, Gesture, Shown } from "../gestures/gesture";
import { airUnder } from "./air_pointer";
import { beginGesture, handleUnder, keyAt, levelStretchUnder, noteUnder, pinAt, wordUnder } from "./begin_gesture";
import { listen } from "./canvas_events";
import { edit } from "../commands/notes/editing";
import { hushPress, play, soundNearest } from "../listening/playing";
import { changeSong } from "../commands/song/songs";
import { pointerPlace, proposeSplitAt, takeSplit } from "../commands/notes/splitting";

/** Shift moves finer, Ctrl coarser, Alt alone, everywhere. */
function placeOf(canvas: HTMLCanvasElement, event: MouseEvent): At {
  const box = canvas.getBoundingClientRect();
  const [x, y] = [event.clientX - box.left, event.clientY - box.top];
  const { view, laneSizes } = store.getState();
  const lanes = layLanes(box.width, box.height, laneSizes);
  return {
    x,
    y,
    view,
    lanes,
    time_s: xToTime(x, view, lanes),
    song_s: xToSong(x, view, lanes),
    midi: yToMidi(y, view, lanes),
    grain: event.shiftKey ? "fine" : event.ctrlKey || event.metaKey ? "coarse" : "own",
    alone: event.altKey,
    adding: event.shiftKey,
  };
}

function cursorOver(at: At): string {
  const { y, lanes } = at;
  if (y < lanes.ruler) return pinAt(at) || keyAt(at) >= 0 ? "ew-resize" : "text";
  if (at.x <= lanes.gutter) return y < lanes.air.top ? "pointer" : "default";
  const { tool, drawsMelody } = store.getState();
  if (y < lanes.air.top && drawsMelody) return "crosshair";
  if (y < lanes.air.top && tool === "time") return noteUnder(at) ? "ew-resize" : "default";
  if (y < lanes.air.top && tool !== "select" && tool !== "level") return "crosshair";
  if (y < lanes.air.top && handleUnder(at)) return "ew-resize";
  if (tool === "select" && wordUnder(at)?.begins) return "grab";
  const stretch = levelStretchUnder(at);
  if (stretch) return stretch.part === "cap" ? "ns-resize" : "ew-resize";
  if (tool === "level" && y >= lanes.level.top) return "crosshair";
  const air = airUnder(at);
  if (air?.side) return "ew-resize";
  return air || noteUnder(at) ? "ns-resize" : "default";
}

function show(shown: Shown): void {
  store.setState(shown);
  if (shown.cursor_s !== undefined && store.getState().playing) void play(shown.cursor_s);
}

/** What the pointer over the sheet tells while nothing is dragged. */
function hover(canvas: HTMLCanvasElement, at: At): void {
  pointerPlace.time_s = at.time_s;
  const { sketch, nearHandle } = store.getState();
  if (sketch?.kind === "split") void proposeSplitAt(at.time_s, at.alone);
  canvas.style.cursor = cursorOver(at);
  const near = handleUnder(at)?.handle.kind ?? null;
  if (near !== nearHandle) store.setState({ nearHandle: near });
}

function turnWheel(canvas: HTMLCanvasElement, event: WheelEvent): void {
  event.preventDefault();
  const { x, y, view, lanes, song_s, midi } = placeOf(canvas, event);
  const { analysis } = store.getState();
  if (!analysis) return;
  const zooms = event.ctrlKey || event.metaKey;
  let next = wheelTime(view, lanes, song_s, event);
  if (zooms && event.shiftKey) next = zoomPitch(view, midi, wheelZoom(event));
  else if (!zooms && (event.altKey || (y > lanes.ruler && y < lanes.air.top && x < lanes.gutter)))
    next = panPitch(view, (-event.deltaY * (view.high - view.low)) / lanes.pitch.height);
  store.setState({ view: clampView(next, analysis.duration_s) });
}

/** A gesture on the sheet until it is let go. */
class SheetPointer {
  private doing: Gesture | null = null;

  constructor(private readonly canvas: HTMLCanvasElement) {}

  readonly finish = ({ operation, keyChanges, ...left }: Ending = {}): void => {
    this.doing = null;
    store.setState({ drag: null, sketch: null, ...left });
    if (operation) void edit(operation);
    if (keyChanges) void changeSong({ key_changes: keyChanges });
  };

  readonly down = (event: PointerEvent): void => {
    const at = placeOf(this.canvas, event);
    if (event.button !== 0) return;
    if (at.x < at.lanes.gutter) {
      if (at.y > at.lanes.ruler && at.y < at.lanes.air.top) soundNearest(at.midi);
      return;
    }
    this.canvas.setPointerCapture(event.pointerId);
    this.canvas.focus({ preventScroll: true });
    if (at.y >= at.lanes.ruler && store.getState().sketch?.kind === "split") return void takeSplit();
    this.doing = beginGesture(at);
    if (at.y < at.lanes.ruler && this.doing) show(this.doing.move(at));
  };

  readonly move = (event: PointerEvent): void => {
    const at = placeOf(this.canvas, event);
    if (this.doing) {
      const shown = this.doing.move(at);
      if (shown.drag || shown.sketch) hushPress();
      return show(shown);
    }
    hover(this.canvas, at);
  };

  readonly up = (event: PointerEvent): void => {
    if (this.doing) this.finish(this.doing.end(placeOf(this.canvas, event)));
  };

  readonly cancel = (): void => this.finish();

  readonly escape = (event: KeyboardEvent): void => {
    if (event.key === "Escape" && (this.doing || store.getState().sketch)) {
      event.preventDefault();
      event.stopPropagation();
      this.finish();
    }
  };
}

/** Connect a canvas; returns what disconnects it. */
export function pointerHandlers(canvas: HTMLCanvasElement): () => void {
  const pointer = new SheetPointer(canvas);
  return listen(
    canvas,
    [
      ["pointerdown", pointer.down],
      ["pointermove", pointer.move],
      ["pointerup", pointer.up],
      ["pointercancel", pointer.cancel],
      ["wheel", (event: WheelEvent) => turnWheel(canvas, event), { passive: false }],
    ],
    pointer.escape,
  );
}
