/** Every key of the editor: how it is shown, what it does in words, and what it does.  Help lists this table. */

import { hasFlag } from "../document/track/flags";
import type { NoteOut, OnNotes } from "../document/track/model";
import { store } from "../document/track/store";
import { songToSource, sourceToSong } from "../document/time/times";
import { VALUES, type ValueSpec } from "../document/track/values";
import { panTime, zoomTime } from "../geometry/viewport";
import { editAir, enterAir, leaveAir, selectedAir, selectNextAir, showAirAs, silenceAir, splitAir } from "./notes/air";
import { chooseHere, stepPhrase, stepRow, toggleRow } from "./versions/comps";
import { changeBy, editSelection, selectNext, selectedNotes } from "./notes/editing";
import { showPhrase } from "./song/opening";
import { swapCandidates } from "./notes/candidates";
import { meanSelection } from "./notes/flags";
import { redoHere, showPanel, undoHere } from "./panels";
import { hearSelection, listenTo, setLoop, soundMidi, togglePlay } from "../listening/playing";
import { chosenStretch, leaveStretch, ofStretch, putStretchBack, silenceSelection } from "./notes/level_stretches";
import {
  centreAtPointer,
  copySelection,
  joinSelection,
  listenAtMark,
  markNow,
  pasteGestures,
  softenJoins,
  toggleLeave,
  tuneSelection,
} from "./notes/shaping";
import { withClashes } from "./voices/clashes";
import { CLASH } from "../document/music/chord_place";
import { stepPhraseOfSheet } from "./song/phrase_unit";
import { beginSplit } from "./notes/splitting";
import { pinCursor, slipOf } from "./notes/timing";
import { holdEdit } from "./holding";
import { showFind } from "./lyrics/finding";
import { moveSyllable, toggleHeld } from "./lyrics/syllables";
import { chooseAllTracks } from "./stack";
import { hearVersion } from "./versions/versions";
import { remember } from "../session/remembered";
import { drawOnLines, fitSong, showHelp, showView, showWindow, takeTool } from "../session/view";

export interface Key {
  /** as the help shows it; rows without it belong to the one before */
  shown: string;
  words: string;
  /** names of the presses it answers to, see `pressName` */
  on: readonly string[];
  run: (event: KeyboardEvent) => void;
  /** only while air is chosen, in place of what the key does else */
  inAir?: true;
  /** while it is held: what is listened to comes back when it is let go */
  held?: true;
  /** where it acts; on the sheet and in the table when not said */
  where?: "comp" | "stack" | "everywhere";
}

/** The name of a press: Ctrl with the key in small letters, or the key as it is typed; comma and full stop by place. */
export function pressName(event: KeyboardEvent): string {
  const place: Record<string, string> = { Comma: ",", Period: "." };
  const key = place[event.code] ?? event.key;
  if (!event.ctrlKey && !event.metaKey) return key;
  return `Ctrl+${event.shiftKey && key.length === 1 && !place[event.code] ? "Shift+" : ""}${key.length === 1 ? key.toLowerCase() : key}`;
}

/** What a press does now; null when nothing. */
export function keyFor(event: KeyboardEvent): Key | null {
  const name = pressName(event);
  const inAir = selectedAir().length > 0;
  const { panel } = store.getState();
  const place = panel === "comp" || panel === "stack" ? panel : "sheet";
  const acts = (key: Key): boolean => key.where === "everywhere" || (key.where ?? "sheet") === place;
  const answers = (key: Key, to: string): boolean => acts(key) && key.on.includes(to) && (!key.inAir || inAir);
  const find = (to: string): Key | undefined =>
    KEYS.find((key) => key.inAir && answers(key, to)) ?? KEYS.find((key) => !key.inAir && answers(key, to));
  return find(name) ?? (name.length === 1 ? find(name.toLowerCase()) : undefined) ?? null;
}

function zoom(factor: number): void {
  const { view, playing } = store.getState();
  const chosen = selectedNotes()[0];
  const at =
    chosen && !playing
      ? sourceToSong((chosen.start_s + chosen.end_s) / 2, view.times)
      : (view.start_s + view.end_s) / 2;
  showView(zoomTime(view, at, factor));
}

function pan(windows: number): void {
  const { view } = store.getState();
  showView(panTime(view, windows * (view.end_s - view.start_s)));
}

function fitPhrase(): void {
  const chosen = selectedNotes()[0];
  const { view, analysis } = store.getState();
  const middle = songToSource((view.start_s + view.end_s) / 2, view.times);
  const phrase = chosen?.phrase ?? analysis?.phrases.find((p) => p.end_s > middle)?.index ?? 0;
  showPhrase(phrase);
}

/** An edit of the chosen notes by a key that may be held. */
function holdOnSelection(event: KeyboardEvent, times: (count: number) => OnNotes): void {
  const note_ids = selectedNotes().map((note) => note.id);
  if (note_ids.length === 0) void editSelection(times(1));
  else holdEdit(event, (count) => ({ ...times(count), note_ids }));
}

function arrow(event: KeyboardEvent): void {
  const up = event.key === "ArrowUp" ? 1 : -1;
  const cents = event.shiftKey ? up : event.ctrlKey || event.metaKey ? 1200 * up : 0;
  holdOnSelection(event, (count) =>
    cents === 0 ? { type: "move", steps: up * count } : { type: "move", cents: cents * count },
  );
}

function slip(event: KeyboardEvent): void {
  const by_ms = slipOf(event.key.toLowerCase() === "i" ? 1 : -1, event);
  const follow = store.getState().timeFollows;
  if (by_ms !== null) holdOnSelection(event, (count) => ({ type: "slip", by_ms: by_ms * count, follow }));
}

function nudge(event: KeyboardEvent, spec: ValueSpec, amount: number): void {
  holdOnSelection(event, (count) => changeBy(spec, amount * count));
}

function level(event: KeyboardEvent): void {
  const sign = event.code === "Period" || event.key === "ArrowUp" ? 1 : -1;
  const db = sign * (event.shiftKey ? 0.1 : event.ctrlKey || event.metaKey ? 3 : 1);
  const stretch = chosenStretch();
  const air_ids = selectedAir().map((one) => one.id);
  if (air_ids.length > 0) holdEdit(event, (count) => ({ type: "nudge_air", by_db: db * count, air_ids }));
  else if (stretch) {
    const from = stretch.muted ? 0 : stretch.level_db;
    holdEdit(event, (count) => ofStretch(stretch, { level_db: from + db * count }));
  } else nudge(event, VALUES.level_db, db);
}

function escape(): void {
  const { tool, sketch } = store.getState();
  if (sketch || tool !== "select") store.setState({ sketch: null, tool: "select" });
  else if (chosenStretch()) leaveStretch();
  else store.setState({ selection: new Set() });
}

/** All notes, or all air while air is chosen. */
function selectAll(): void {
  const { content } = store.getState();
  if (selectedAir().length > 0) store.setState({ airSelection: new Set(content?.air.map((event) => event.id)) });
  else store.setState({ selection: new Set(content?.notes.map((note) => note.id)) });
}

const sideways = (event: KeyboardEvent): 1 | -1 => (event.key === "ArrowRight" ? 1 : -1);
const flagged = (note: NoteOut): boolean => {
  const state = store.getState();
  const [seen] = state.flagKind === CLASH ? withClashes([note], { ...state, times: state.view.times }) : [note];
  return hasFlag(seen!, state.flagKind);
};
const harsh = (event: { harsh_db?: number | null }): boolean => event.harsh_db !== null;
const toggleAirAs = (): void => void showAirAs(store.getState().airAs === "level" ? "spectrum" : "level");
const toggleStrip = (): void => store.setState({ stripHidden: !store.getState().stripHidden });

function key(shown: string, words: string, on: string[], run: Key["run"], more: Partial<Key> = {}): Key {
  return { shown, words, on, run, ...more };
}

const EVERYWHERE: Partial<Key> = { where: "everywhere" };
const IN_COMP: Partial<Key> = { where: "comp" };

export const KEYS: readonly Key[] = [
  key("Space", "play, stop", [" "], togglePlay, EVERYWHERE),
  key("Enter", "hear the selection from a little before", ["Enter"], hearSelection, EVERYWHERE),
  key("← →", "previous, next note", ["ArrowLeft", "ArrowRight"], (event) => selectNext(sideways(event))),
  key("Ctrl+← →", "previous, next phrase (Shift: one more)", ["Ctrl+ArrowLeft", "Ctrl+ArrowRight"], (event) => {
    stepPhraseOfSheet(sideways(event), event.shiftKey);
  }),
  key("N, Shift+N", "next, previous flag", ["n", "N"], (event) => selectNext(event.key === "n" ? 1 : -1, flagged)),
  key("K", "keep: the flags of the selection are meant so", ["k"], meanSelection),
  key(
    "↑ ↓",
    "one step of the rounding (Shift: 1 cent, Ctrl: an octave)",
    ["ArrowUp", "ArrowDown", "Ctrl+ArrowUp", "Ctrl+ArrowDown"],
    arrow,
  ),
  key("T", "tune the selection by your own strength; again takes that back", ["t"], tuneSelection),
  key(";", "the other of two candidates, also while it plays", [";"], () => void swapCandidates()),
  key("Shift+T", "leave the selection as sung, or let passes act on it again", ["T"], toggleLeave),
  key("Backspace", "put the selection back as sung", ["Backspace"], () => {
    if (chosenStretch()) putStretchBack();
    else void editSelection({ type: "put_back", aspect: "all" });
  }),
  key("hold `", "hear as sung", ["`"], () => listenTo("sung"), { held: true, where: "everywhere" }),
  key("1 to 9", "hear that version at the same place", "123456789".split(""), (event) =>
    hearVersion(Number(event.key)),
  ),
  key("0", "hear the open version again", ["0"], () => listenTo("tuned")),
  key("V", "versions", ["v"], () => showWindow("versions")),
  key("M", "mark how it is now", ["m"], markNow),
  key("hold Shift+M", "hear it as it was at the mark", ["M"], listenAtMark, { held: true }),
  key("X", "split at the pointer (Alt: at the very place)", ["x"], () => void beginSplit()),
  key("J", "join with the next", ["j"], joinSelection),
  key("Shift+J", "soften the joins of the selection", ["J"], softenJoins),
  key("C", "take the centre from around the pointer or play position", ["c"], centreAtPointer),
  key("G", "sound the target's pitch", ["g"], () => {
    const note = selectedNotes()[0];
    if (note) soundMidi(note.target_midi);
  }),
  key("W", "the time tool: when notes start and end", ["w"], () => takeTool("time")),
  key(
    "U, I",
    "the selection 5 ms earlier, later (Shift: 1 ms, Ctrl: a quarter of a beat)",
    ["u", "i", "U", "I", "Ctrl+u", "Ctrl+i"],
    slip,
  ),
  key("O", "pin at the cursor, or take the pin there away", ["o"], pinCursor),
  key("Q", "quantise", ["q"], () => showWindow("quantise")),
  key("D", "draw a hand curve", ["d"], () => takeTool("draw")),
  key("R", "rub out: what was drawn goes, else the voice comes back as sung", ["r"], () => takeTool("rub")),
  key("Shift+L", "the level tool: any stretch louder, softer or silent", ["L"], () => takeTool("level")),
  key("Delete", "silence the selection", ["Delete"], silenceSelection),
  key("Shift+D", "drawing keeps to the lines, or not", ["D"], () => drawOnLines(!store.getState().onLines)),
  key("[ ]", "shorter, longer glide into the note", ["[", "]"], (event) => {
    nudge(event, VALUES.glide_ms, event.key === "[" ? -10 : 10);
  }),
  key("Ctrl+C", "copy gestures", ["Ctrl+c"], copySelection),
  key("Ctrl+V", "put gestures on the selection", ["Ctrl+v"], () => pasteGestures(true)),
  key("Ctrl+Shift+V", "put them there without their targets", ["Ctrl+Shift+v"], () => pasteGestures(false)),
  key("P", "tune pass", ["p"], () => showWindow("pass")),
  key("Z", "glaze", ["z"], () => showWindow("glaze")),
  key("Y", "follow another track", ["y"], () => showWindow("follow")),
  key("B", "borrow the same word from another place", ["b"], () => showWindow("borrow")),
  key(", .", "level of the selection 1 dB down, up (Shift: 0.1, Ctrl: 3)", [",", ".", "Ctrl+,", "Ctrl+."], level),
  key("A", "into the air lane and back to the note", ["a"], enterAir),
  key("in air: ← →", "previous, next event", ["ArrowLeft", "ArrowRight"], (event) => selectNextAir(sideways(event)), {
    inAir: true,
  }),
  key(
    "in air: N, Shift+N",
    "next, previous harsh sibilant",
    ["n", "N"],
    (event) => {
      selectNextAir(event.key === "n" ? 1 : -1, harsh);
    },
    { inAir: true },
  ),
  key(
    "in air: ↑ ↓",
    "1 dB up, down (Shift: 0.1, Ctrl: 3)",
    ["ArrowUp", "ArrowDown", "Ctrl+ArrowUp", "Ctrl+ArrowDown"],
    level,
    { inAir: true },
  ),
  key("in air: 0", "silence", ["0"], silenceAir, { inAir: true }),
  key("in air: X", "split", ["x"], splitAir, { inAir: true }),
  key("in air: Backspace", "put back as sung", ["Backspace"], () => void editAir({ type: "put_air_back" }), {
    inAir: true,
  }),
  key("in air: Esc", "back to the note", ["Escape"], leaveAir, { inAir: true }),
  key("{ }", "the syllable one note earlier, later", ["{", "}"], (event) => {
    moveSyllable(event.key === "}" ? 1 : -1);
  }),
  key("Shift+W", "the word is held on from the note before, or a syllable begins", ["W"], toggleHeld),
  key("Ctrl+F", "find words, pitches, flags and bars", ["Ctrl+f"], () => showFind(true), EVERYWHERE),
  key("E", "air lane as level or as energy", ["e"], toggleAirAs),
  key("S", "show or hide the strip at the note", ["s"], toggleStrip),
  key("L", "loop the selection or phrase", ["l"], () => setLoop(!store.getState().loop), EVERYWHERE),
  key("F", "fit the phrase", ["f"], fitPhrase),
  key("+ −", "zoom in, out", ["+", "=", "-"], (event) => zoom(event.key === "-" ? 1.4 : 0.7), EVERYWHERE),
  key(
    "Page Up, Page Down",
    "a window back, on",
    ["PageUp", "PageDown"],
    (event) => {
      pan(event.key === "PageUp" ? -0.8 : 0.8);
    },
    EVERYWHERE,
  ),
  key("Ctrl+A", "select all", ["Ctrl+a"], selectAll),
  key("Esc", "leave the tool, then the selection", ["Escape"], escape),
  key("Ctrl+Z", "undo", ["Ctrl+z"], () => void undoHere(), EVERYWHERE),
  key("Ctrl+Shift+Z", "redo", ["Ctrl+Shift+z", "Ctrl+y"], () => void redoHere(), EVERYWHERE),
  key("(", "fold or show the list of phrases", ["("], () => remember({ listFolded: !store.getState().listFolded })),
  key(")", "fold or show the inspector", [")"], () => remember({ inspectorFolded: !store.getState().inspectorFolded })),
  key("?", "this list", ["?"], () => showHelp(true), EVERYWHERE),
  key(
    "H",
    "the comp, and back to the sheet",
    ["h"],
    () => showPanel(store.getState().panel === "comp" ? "sheet" : "comp"),
    EVERYWHERE,
  ),
  key(
    "Shift+H",
    "all tracks together, and back to the sheet",
    ["H"],
    () => showPanel(store.getState().panel === "stack" ? "sheet" : "stack"),
    EVERYWHERE,
  ),
  key("in the stack: F", "fit the whole song", ["f"], fitSong, { where: "stack" }),
  key("in the stack: Ctrl+A", "choose all tracks", ["Ctrl+a"], chooseAllTracks, { where: "stack" }),
  key(
    "in the comp: ← →",
    "previous, next phrase",
    ["ArrowLeft", "ArrowRight"],
    (event) => stepPhrase(sideways(event)),
    IN_COMP,
  ),
  key(
    "in the comp: ↑ ↓",
    "choose the version above, below here",
    ["ArrowUp", "ArrowDown"],
    (event) => {
      stepRow(event.key === "ArrowUp" ? -1 : 1);
    },
    IN_COMP,
  ),
  key(
    "in the comp: 1 to 9",
    "choose that version here",
    "123456789".split(""),
    (event) => {
      chooseHere(Number(event.key) - 1);
    },
    IN_COMP,
  ),
  key("in the comp: Y", "hear the chosen row alone, or the comp again", ["y"], toggleRow, IN_COMP),
];
