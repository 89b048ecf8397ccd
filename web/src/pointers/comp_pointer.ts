/** The pointer in the comp view: a press chooses a phrase, a drag any stretch, borders are moved. */

import { type Border, borderNear, type CompSketch } from "../document/track/comp";
import { store, timesNow } from "../document/track/store";
import { songToTrack, trackToSong } from "../document/time/times";
import { layRows, rowAt } from "../geometry/comp_rows";
import { clampView, layLanes, secondsPerPixel, wheelTime, xToSong } from "../geometry/viewport";
import { listen } from "./canvas_events";
import { chooseHere, compPhrases, editComp, goToPhraseAt, hearRow } from "../commands/versions/comps";
import { listenTo, play } from "../listening/playing";

const HOLD_PX = 5;
const DRAG_PX = 4;

interface Place {
  x: number;
  y: number;
  song_s: number;
  row: number | null;
  border: Border | null;
  inGutter: boolean;
  onRuler: boolean;
}

function placeOf(canvas: HTMLCanvasElement, event: MouseEvent): Place {
  const box = canvas.getBoundingClientRect();
  const [x, y] = [event.clientX - box.left, event.clientY - box.top];
  const { view, comp, compRows } = store.getState();
  const lanes = layLanes(box.width, box.height);
  const layout = layRows(box.height, compRows.length);
  const song_s = xToSong(x, view, lanes);
  const reach = HOLD_PX * secondsPerPixel(view, lanes);
  const inGutter = x < lanes.gutter;
  const border = comp && !inGutter ? borderNear(comp, songToTrack(song_s, timesNow()), reach) : null;
  return { x, y, song_s, row: rowAt(y, layout), border, inGutter, onRuler: y < layout.ruler };
}

function cursorOver(at: Place): string {
  if (at.row === null && !at.onRuler) return "default";
  return at.border ? "ew-resize" : at.inGutter ? "pointer" : at.onRuler ? "text" : "crosshair";
}

function setCursor(at: Place): void {
  store.setState({ cursor_s: at.song_s });
  if (store.getState().playing) void play(at.song_s);
}

/** What letting go of the pointer does: a border or a stretch as it was drawn, else the phrase that was pressed. */
function release(at: Place, sketch: CompSketch | null): void {
  if (sketch?.kind === "border") {
    const to_s = Math.max(0, songToTrack(sketch.to_s, timesNow()));
    return void editComp({ type: "move_border", choice_id: sketch.choiceId, to_s });
  }
  if (sketch?.kind === "stretch") {
    const [start_s, end_s] = [sketch.from_s, sketch.to_s].sort((a, b) => a - b) as [number, number];
    store.setState({ compHere: { start_s: Math.max(trackToSong(0, timesNow()), start_s), end_s } });
    return chooseHere(sketch.row);
  }
  if (at.border) return;
  goToPhraseAt(at.song_s);
  if (at.row !== null && at.row >= 0) {
    const phrase = compPhrases().find((one) => at.song_s >= one.start_s && at.song_s < one.end_s);
    if (phrase) chooseHere(at.row, phrase);
  }
}

function turnWheel(canvas: HTMLCanvasElement, event: WheelEvent): void {
  event.preventDefault();
  const { view, analysis } = store.getState();
  if (!analysis) return;
  const at = placeOf(canvas, event);
  const next = wheelTime(view, layLanes(canvas.clientWidth, canvas.clientHeight), at.song_s, event);
  store.setState({ view: clampView(next, analysis.duration_s) });
}

/** A press in the comp view until it is let go. */
class CompPointer {
  private begun: Place | null = null;

  constructor(private readonly canvas: HTMLCanvasElement) {}

  readonly down = (event: PointerEvent): void => {
    if (event.button !== 0) return;
    const at = placeOf(this.canvas, event);
    this.canvas.focus({ preventScroll: true });
    if (at.onRuler) return setCursor(at);
    if (at.row === null) return;
    if (at.inGutter) {
      if (at.row >= 0) hearRow(at.row);
      else listenTo("comp");
      return;
    }
    this.canvas.setPointerCapture(event.pointerId);
    this.begun = at;
  };

  readonly move = (event: PointerEvent): void => {
    const at = placeOf(this.canvas, event);
    if (!this.begun) {
      this.canvas.style.cursor = cursorOver(at);
      return;
    }
    if (Math.abs(at.x - this.begun.x) < DRAG_PX && store.getState().compSketch === null) return;
    const { border, row, song_s } = this.begun;
    if (border) store.setState({ compSketch: { kind: "border", choiceId: border.choice_id, to_s: at.song_s } });
    else if (row !== null && row >= 0)
      store.setState({ compSketch: { kind: "stretch", row, from_s: song_s, to_s: at.song_s } });
  };

  readonly up = (): void => {
    const { compSketch } = store.getState();
    const at = this.begun;
    this.leave();
    if (at) release(at, compSketch);
  };

  readonly leave = (): void => {
    this.begun = null;
    store.setState({ compSketch: null });
  };

  readonly escape = (event: KeyboardEvent): void => {
    if (event.key !== "Escape" || !this.begun) return;
    event.preventDefault();
    event.stopPropagation();
    this.leave();
  };
}

/** Connect a canvas; returns what disconnects it. */
export function compPointer(canvas: HTMLCanvasElement): () => void {
  const pointer = new CompPointer(canvas);
  return listen(
    canvas,
    [
      ["pointerdown", pointer.down],
      ["pointermove", pointer.move],
      ["pointerup", pointer.up],
      ["pointercancel", pointer.leave],
      ["wheel", (event: WheelEvent) => turnWheel(canvas, event), { passive: false }],
    ],
    pointer.escape,
  );
}
