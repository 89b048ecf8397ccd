/** Where the handles of the one selected note lie: beside the rail's ends and above the join, never on the thread. */

import type { NoteOut, View } from "../document/track/model";
import { type Lanes, midiToY, timeToX } from "./viewport";

export const HANDLE = 10;
const REACH = 9;
const CLEAR = 22;

export interface Handle {
  kind: "start" | "end" | "glide";
  x: number;
  y: number;
}

export function handlesOf(note: NoteOut, notes: NoteOut[], view: View, lanes: Lanes): Handle[] {
  const rail = midiToY(note.target_midi, view, lanes);
  const sung = midiToY(note.centre_midi, view, lanes);
  const below = Math.max(rail, sung) + CLEAR;
  const start = timeToX(note.start_s, view, lanes);
  const end = timeToX(note.end_s, view, lanes);
  const handles: Handle[] = [
    { kind: "start", x: start, y: below },
    { kind: "end", x: end, y: below },
  ];
  const joined = notes.some((other) => other.id !== note.id && Math.abs(other.end_s - note.start_s) < 0.011);
  if (joined) handles.push({ kind: "glide", x: start, y: below + 2 * HANDLE });
  return handles;
}

export function handleAt(x: number, y: number, handles: Handle[]): Handle | null {
  return handles.find((handle) => Math.abs(handle.x - x) <= REACH && Math.abs(handle.y - y) <= REACH) ?? null;
}
