/** Which gesture a press on the sheet begins. */

import type { SyllableOut } from "../document/schema";
import type { NoteOut, PinOut } from "../document/track/model";
import { keyMarks, linesAt, linesOf } from "../document/music/pitch_names";
import { roundPitch } from "../document/music/rounding";
import { store } from "../document/track/store";
import { sourceToSong } from "../document/time/times";
import { levelNoteAt } from "../geometry/air";
import { type Handle, handleAt, handlesOf } from "../geometry/handles";
import { type StretchHit, stretchUnder } from "../geometry/level_stretch";
import { noteAt } from "../geometry/hit_test";
import { labelUnder, type WordLabel, wordLabels } from "../geometry/syllables";
import { secondsPerPixel, songToX, timeToX } from "../geometry/viewport";
import { frameGesture } from "../gestures/choose_notes";
import { handleGesture } from "../gestures/drag_handle";
import { laneGesture } from "../gestures/drag_in_lane";
import { newStretchGesture, stretchGesture } from "../gestures/drag_level_stretch";
import { beginDrag, noteGesture } from "../gestures/drag_note";
import { lineGesture, melodyGesture } from "../gestures/draw_line";
import type { At, Gesture } from "../gestures/gesture";
import { edgeUnder, type TimeDrag, timeGesture } from "../gestures/move_time";
import { keyGesture, markUnder } from "../gestures/move_key";
import { pinGesture, pinUnder } from "../gestures/move_pin";
import { syllableGesture } from "../gestures/move_syllable";
import { cursorGesture } from "../gestures/place_cursor";
import { rubGesture } from "../gestures/rub_out";
import { airUnder, beginInAir } from "./air_pointer";
import { layAt, sungNow } from "../commands/lyrics/syllables";
import { select } from "../commands/notes/editing";
import { chooseStretch, FIRST_DB } from "../commands/notes/level_stretches";
import { hearPress } from "../listening/playing";
import { askRoom } from "../commands/notes/timing";

export function noteUnder({ x, y, view, lanes }: At): NoteOut | null {
  const { content, curves } = store.getState();
  if (!content || !curves) return null;
  if (y >= lanes.level.top) return levelNoteAt(x, content.notes, view, lanes);
  if (y >= lanes.air.top) return null;
  return noteAt(x, y, content.notes, curves, view, lanes);
}

/** The handle of the selected note under a point. */
export function handleUnder({ x, y, view, lanes }: At): { handle: Handle; note: NoteOut } | null {
  const { content, selection } = store.getState();
  if (!content || selection.size !== 1) return null;
  const note = content.notes.find((candidate) => selection.has(candidate.id));
  if (!note) return null;
  const handle = handleAt(x, y, handlesOf(note, content.notes, view, lanes));
  return handle ? { handle, note } : null;
}

/** The gesture of a press; null when the press alone was all. */
export function beginGesture(at: At): Gesture | null {
  const { tool } = store.getState();
  const { y, lanes } = at;
  if (y < lanes.ruler) return onPin(at) ?? onKey(at) ?? cursorGesture();
  const inPitch = y < lanes.air.top;
  if (inPitch && store.getState().drawsMelody) return melodyGesture(at, store.getState().melodyLines);
  if (inPitch && tool === "draw") return drawing(at);
  if (inPitch && tool === "rub") return rubGesture(at.time_s);
  const held = inPitch && tool === "select" ? handleUnder(at) : null;
  if (held) return handleGesture(held.handle.kind, held.note, at);
  if (!inPitch && y < lanes.level.top) return inAir(at);
  if (!inPitch) return inLevel(at);
  const label = tool === "select" ? wordUnder(at) : null;
  if (label?.begins) return onWord(label, label.begins);
  const note = noteUnder(at);
  if (note && tool === "time") return inTime(note, at);
  return note ? onNote(note, at, true) : besideNotes(at);
}

/** The word under a point of the pitch lane. */
export function wordUnder({ x, y, view, lanes }: At): WordLabel | null {
  const { content, curves, strainLimit, selection } = store.getState();
  if (!content || !curves || y >= lanes.air.top) return null;
  const worded = { notes: content.notes, curves, view, strainLimit, selection, sung: sungNow() };
  return labelUnder(wordLabels(worded, lanes), x, y);
}

/** A syllable is pressed, which chooses its note, and dragged to another one. */
function onWord(label: WordLabel, begins: SyllableOut): Gesture {
  const notes = store.getState().content?.notes ?? [];
  const note = notes.find(({ id }) => id === label.noteId);
  if (note) {
    hearPress(note.start_s, note.end_s);
    select([note]);
  }
  return syllableGesture(label, begins, notes, layAt);
}

/** A line by hand, on the lines of the tuning where it is to keep to them. */
function drawing(at: At): Gesture {
  const { exactLine, onLines, song } = store.getState();
  const lines = song ? linesAt(song, at.song_s) : [];
  return lineGesture(at, exactLine, onLines ? (midi) => roundPitch(midi, lines, "scale") : undefined);
}

/** The level stretch, or end of one, under a point. */
export function levelStretchUnder({ x, y, view, lanes }: At): StretchHit | null {
  return stretchUnder(x, y, store.getState().content?.level_stretches ?? [], view, lanes);
}

/** In the level lane a level stretch is taken, a new one is laid with its tool, or the level of a note is. */
function inLevel(at: At): Gesture | null {
  const hit = levelStretchUnder(at);
  if (hit) {
    chooseStretch(hit.stretch.id);
    return stretchGesture(hit, at.y);
  }
  if (store.getState().tool === "level") return newStretchGesture(at.time_s, FIRST_DB);
  const note = noteUnder(at);
  return note ? onNote(note, at, false) : besideNotes(at);
}

function inAir(at: At): Gesture | null {
  const pressed = airUnder(at);
  if (pressed && !at.adding) hearPress(pressed.event.start_s, pressed.event.end_s);
  const drag = beginInAir(at, pressed);
  return drag && laneGesture(drag, pressed ? [pressed.event.id] : [], store.getState().playing);
}

function onNote(note: NoteOut, at: At, inPitch: boolean): Gesture | null {
  const { selection, song } = store.getState();
  const leaves = at.adding && selection.has(note.id);
  if (!at.adding) hearPress(note.start_s, note.end_s); // before what is chosen is drawn
  if (at.adding && !leaves) select([note], { add: true });
  else if (!selection.has(note.id)) store.setState({ selection: new Set([note.id]), airSelection: new Set() });
  const chosen = store.getState().selection;
  const ids = [...chosen];
  if (!inPitch) return laneGesture({ kind: "level", of: "note", ids, fromY: at.y, moved: false }, [], false);
  const perPixel = (at.view.high - at.view.low) / at.lanes.pitch.height;
  const lines = song ? linesOf(song, note, at.view.times.offset_s) : [];
  return noteGesture(beginDrag(note, ids, at.y, perPixel), lines, chosen, leaves);
}

/** The pin whose head on the ruler is under a point. */
export function pinAt({ x, view, lanes }: At): PinOut | null {
  return pinUnder(x, store.getState().content?.pins ?? [], (at_s) => timeToX(at_s, view, lanes));
}

/** A pin's head is dragged along the ruler. */
function onPin(at: At): Gesture | null {
  const pin = pinAt(at);
  return pin && pinGesture({ pinId: pin.id, fromX: at.x, secondsPerPixel: secondsPerPixel(at.view, at.lanes) });
}

/** Which change of key has its mark on the ruler under a point; −1 for none. */
export function keyAt({ x, view, lanes }: At): number {
  const { song } = store.getState();
  return song ? markUnder(x, keyMarks(song), (song_s) => songToX(song_s, view, lanes)) : -1;
}

/** A change of key is dragged along the ruler. */
function onKey(at: At): Gesture | null {
  const { song } = store.getState();
  const index = keyAt(at);
  return song && index >= 0 ? keyGesture({ index, changes: song.key_changes, fromX: at.x, meter: song }) : null;
}

/** With the time tool a note is moved along, or one of its edges. */
function inTime(note: NoteOut, at: At): Gesture {
  const { selection, song, timeFollows } = store.getState();
  if (at.adding && !selection.has(note.id)) select([note], { add: true });
  else if (!selection.has(note.id)) store.setState({ selection: new Set([note.id]), airSelection: new Set() });
  const chosen = store.getState().selection;
  const edge = edgeUnder(at.x, timeToX(note.start_s, at.view, at.lanes), timeToX(note.end_s, at.view, at.lanes));
  const drag: TimeDrag = {
    noteIds: edge === "both" ? [...chosen] : [note.id],
    edge,
    place_s: sourceToSong(edge === "end" ? note.end_s : note.start_s, at.view.times),
    fromX: at.x,
    secondsPerPixel: secondsPerPixel(at.view, at.lanes),
    follow: timeFollows,
    meter: song?.tempo_chosen ? song : null,
    room: null,
  };
  void askRoom(drag);
  return timeGesture(drag, note, chosen);
}

/** Beside all notes a frame is drawn, and the cursor goes there. */
function besideNotes(at: At): Gesture | null {
  const { selection, playing, content } = store.getState();
  const before = at.adding ? selection : new Set<string>();
  store.setState({ selection: before, airSelection: new Set() });
  if (!at.adding && !playing) store.setState({ cursor_s: Math.max(0, at.song_s) });
  return content && frameGesture(at, content.notes, before);
}
