import { useEffect } from "react";
import { store } from "../document/store";
import { clampView, panTime, zoomTime } from "../geometry/viewport";
import { changeValueBy, editSelection, redo, selectNext, selectedNotes, showPhrase, undo } from "./editing";
import { VALUES } from "../document/values";
import { hearSelection, listenTo, setLoop, togglePlay } from "./playing";

import { centreAtPointer, copySelection, joinSelection, listenAtMark, markNow, pasteGestures } from "./shaping";
import { editAir, enterAir, leaveAir, selectedAir, selectNextAir, showAirAs, silenceAir, splitAir } from "./air";
import { beginSplit } from "./splitting";
import { showWindow, takeTool } from "./view";

/** What every key does; the help page lists the same table. */
export const KEYS: [string, string][] = [
  ["Space", "play, stop"],
  ["Enter", "hear the selection from a little before"],
  ["← →", "previous, next note (with Ctrl: phrase)"],
  ["N, Shift+N", "next, previous flag"],
  ["↑ ↓", "one step of the rounding (Shift: 1 cent, Alt: 10 cents)"],
  ["T", "tune the selection to the nearest allowed pitch"],
  ["Backspace", "put the selection back as sung"],
  ["hold `", "hear as sung"],
  ["M, hold Shift+M", "mark how it is now; hear it as it was at the mark"],
  ["X, J", "split at the pointer, join with the next"],
  ["C", "take the centre from around the pointer or play position"],
  ["D, R", "draw a hand curve, rub one out"],
  ["[ ]", "shorter, longer glide into the note"],
  ["Ctrl+C, Ctrl+V", "copy gestures, put them on the selection"],
  ["P", "tune pass"],
  [", .", "level of the selection 1 dB down, up (Alt: 3 dB)"],
  ["A", "into the air lane and back to the note"],
  ["in air: ← →, ↑ ↓", "previous, next event; 1 dB up, down (Alt: 3 dB)"],
  ["in air: 0, X, Backspace", "silence, split, put back as sung"],
  ["E", "air lane as level or as energy"],
  ["S", "show or hide the strip at the note"],
  ["L", "loop the selection or phrase"],
  ["F", "fit the phrase"],
  ["+ −", "zoom in, out"],
  ["Page Up, Page Down", "a window back, on"],
  ["Ctrl+A, Esc", "select all, nothing"],
  ["Ctrl+Z, Ctrl+Shift+Z", "undo, redo"],
  ["?", "this list"],
];

function inField(target: EventTarget | null): boolean {
  return (
    target instanceof Element &&
    target.closest("input, textarea, select, [role=dialog]:not([data-beside]), [role=menu], [role=slider]") !== null
  );
}

function onControl(target: EventTarget | null): boolean {
  return target instanceof Element && target.closest("button, a, [role=radio], [role=tab], [role=grid]") !== null;
}

function zoom(factor: number): void {
  const { view, analysis, playing } = store.getState();
  if (!analysis) return;
  const chosen = selectedNotes()[0];
  const at = chosen && !playing ? (chosen.start_s + chosen.end_s) / 2 : (view.start_s + view.end_s) / 2;
  store.setState({ view: clampView(zoomTime(view, at, factor), analysis.duration_s) });
}

function pan(windows: number): void {
  const { view, analysis } = store.getState();
  if (analysis)
    store.setState({ view: clampView(panTime(view, windows * (view.end_s - view.start_s)), analysis.duration_s) });
}

function fitPhrase(): void {
  const chosen = selectedNotes()[0];
  const { view, analysis } = store.getState();
  const middle = (view.start_s + view.end_s) / 2;
  const phrase = chosen?.phrase ?? analysis?.phrases.find((p) => p.end_s > middle)?.index ?? 0;
  showPhrase(phrase);
}

function arrow(event: KeyboardEvent): void {
  const up = event.key === "ArrowUp" ? 1 : -1;
  if (event.shiftKey) void editSelection({ type: "move", cents: up });
  else if (event.altKey) void editSelection({ type: "move", cents: 10 * up });
  else void editSelection({ type: "move", steps: up });
}

function level(event: KeyboardEvent, sign: 1 | -1): void {
  const db = sign * (event.altKey ? 3 : 1);
  if (selectedAir().length > 0) void editAir({ type: "nudge_air", by_db: db });
  else void changeValueBy(VALUES.level_db, db);
}

/** What keys do while air is chosen. */
const IN_AIR: Record<string, (event: KeyboardEvent) => void> = {
  ArrowRight: () => selectNextAir(1),
  ArrowLeft: () => selectNextAir(-1),
  ArrowUp: (event) => level(event, 1),
  ArrowDown: (event) => level(event, -1),
  n: () => selectNextAir(1, (event) => event.harsh_db !== null),
  N: () => selectNextAir(-1, (event) => event.harsh_db !== null),
  "0": silenceAir,
  x: splitAir,
  Backspace: () => void editAir({ type: "put_air_back" }),
  Escape: leaveAir,
};

const PLAIN: Record<string, (event: KeyboardEvent) => void> = {
  ArrowRight: () => selectNext(1),
  ArrowLeft: () => selectNext(-1),
  ArrowUp: arrow,
  ArrowDown: arrow,
  n: () => selectNext(1, (note) => note.flags.length > 0),
  N: () => selectNext(-1, (note) => note.flags.length > 0),
  t: () => void editSelection({ type: "tune" }),
  Backspace: () => void editSelection({ type: "put_back", aspect: "all" }),
  l: () => setLoop(!store.getState().loop),
  f: fitPhrase,
  "+": () => zoom(0.7),
  "=": () => zoom(0.7),
  "-": () => zoom(1.4),
  PageDown: () => pan(0.8),
  PageUp: () => pan(-0.8),
  Escape: () => {
    const { tool, sketch } = store.getState();
    if (sketch || tool !== "select") store.setState({ sketch: null, tool: "select" });
    else store.setState({ selection: new Set() });
  },
  x: () => void beginSplit(),
  j: joinSelection,
  c: centreAtPointer,
  d: () => takeTool("draw"),
  r: () => takeTool("rub"),
  p: () => showWindow("pass"),
  a: enterAir,
  e: () => void showAirAs(store.getState().airAs === "level" ? "spectrum" : "level"),
  ",": (event) => level(event, -1),
  ".": (event) => level(event, 1),
  s: () => store.setState({ stripHidden: !store.getState().stripHidden }),
  m: markNow,
  "[": () => void changeValueBy(VALUES.glide_ms, -10),
  "]": () => void changeValueBy(VALUES.glide_ms, 10),
  "?": () => store.setState({ help: true }),
};

/** All notes, or all air while air is chosen. */
function selectAll(): void {
  const { content } = store.getState();
  if (selectedAir().length > 0) store.setState({ airSelection: new Set(content?.air.map((event) => event.id)) });
  else store.setState({ selection: new Set(content?.notes.map((note) => note.id)) });
}

function withControl(event: KeyboardEvent): boolean {
  const key = event.key.toLowerCase();
  if (key === "z") void (event.shiftKey ? redo() : undo());
  else if (key === "y") void redo();
  else if (key === "c") copySelection();
  else if (key === "v") pasteGestures(!event.shiftKey);
  else if (key === "a") selectAll();
  else if (key === "arrowright") selectNext(1, (note, from) => note.phrase !== from?.phrase);
  else if (key === "arrowleft") selectNext(-1, (note, from) => note.phrase !== from?.phrase);
  else return false;
  return true;
}

/** The editor's keys, active while the editor is on screen. */
export function useKeyboard(): void {
  useEffect(() => {
    let before = store.getState().listening;
    const down = (event: KeyboardEvent): void => {
      if (inField(event.target) || event.defaultPrevented || store.getState().help) return;
      if (event.ctrlKey || event.metaKey) {
        if (withControl(event)) event.preventDefault();
        return;
      }
      if (event.key === " " || event.key === "Enter") {
        if (onControl(event.target)) return;
        event.preventDefault();
        if (event.key === " ") togglePlay();
        else hearSelection();
        return;
      }
      if (event.key === "`" || event.key === "M") {
        if (!event.repeat) {
          before = store.getState().listening;
          if (event.key === "M") listenAtMark();
          else listenTo("sung");
        }
        return;
      }
      if (
        event.target instanceof Element &&
        event.target.closest("[role=radiogroup], [role=grid]") &&
        event.key.startsWith("Arrow")
      )
        return;
      const inAir = selectedAir().length > 0 ? IN_AIR : {};
      const key =
        event.altKey && event.code === "Comma" ? "," : event.altKey && event.code === "Period" ? "." : event.key;
      const action = inAir[key] ?? inAir[key.toLowerCase()] ?? PLAIN[key] ?? PLAIN[key.toLowerCase()];
      if (!action) return;
      event.preventDefault();
      action(event);
    };
    const up = (event: KeyboardEvent): void => {
      const heldMark =
        event.key.toLowerCase() === "m" && store.getState().listening === "marked" && before !== "marked";
      if ((event.key === "`" || heldMark) && !inField(event.target)) listenTo(before);
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
    };
  }, []);
}
