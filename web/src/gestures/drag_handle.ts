/** Dragging a handle of the chosen note: an edge, or the length and bend of the glide into it. */

import type { NoteOut, Operation, Sketch } from "../document/track/model";
import type { Handle } from "../geometry/handles";
import type { Gesture } from "./gesture";

const MS_PER_PIXEL = 2;
const BEND_PER_PIXEL = 1 / 60;
const [SHORTEST_MS, LONGEST_MS] = [10, 400];
/** what a glide that is as sung is dragged from */
const USUAL_MS = 70;
const SHORTEST_NOTE_S = 0.04;

type EdgeSketch = Extract<Sketch, { kind: "edge" }>;
type GlideSketch = Extract<Sketch, { kind: "glide" }>;

export function edgeSketch(note: NoteOut, side: "start" | "end", time_s: number): EdgeSketch {
  const [last, first] = [note.end_s - SHORTEST_NOTE_S, note.start_s + SHORTEST_NOTE_S];
  const at_s = side === "start" ? Math.min(time_s, last) : Math.max(time_s, first);
  return { kind: "edge", noteId: note.id, side, at_s: Math.max(0, at_s) };
}

export function glideSketch(note: NoteOut, dx: number, dy: number): GlideSketch {
  const from_ms = note.gesture.glide_ms ?? USUAL_MS;
  const glide_ms = Math.min(LONGEST_MS, Math.max(SHORTEST_MS, from_ms + dx * MS_PER_PIXEL));
  const bend = Math.min(1, Math.max(-1, note.gesture.glide_bend - dy * BEND_PER_PIXEL));
  return { kind: "glide", noteId: note.id, glide_ms, bend: Math.abs(bend) < 0.08 ? 0 : bend };
}

/** The edit that a handle's place asks for; `alone` leaves the neighbour's edge where it is. */
export function handleOperation(sketch: EdgeSketch | GlideSketch, alone: boolean): Operation {
  if (sketch.kind === "edge")
    return { type: "move_edge", note_id: sketch.noteId, side: sketch.side, at_s: sketch.at_s, follow: !alone };
  const values = { glide_ms: Math.round(sketch.glide_ms), glide_bend: Math.round(sketch.bend * 100) / 100 };
  return { type: "set", note_ids: [sketch.noteId], values };
}

export function handleGesture(handle: Handle["kind"], note: NoteOut, from: { x: number; y: number }): Gesture {
  let sketch: EdgeSketch | GlideSketch | null = null;
  return {
    move(at) {
      sketch =
        handle === "glide" ? glideSketch(note, at.x - from.x, at.y - from.y) : edgeSketch(note, handle, at.time_s);
      return { sketch };
    },
    end: (at) => ({ operation: sketch && handleOperation(sketch, at.alone) }),
  };
}
