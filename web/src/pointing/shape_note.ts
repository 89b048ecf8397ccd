/** Gestures besides dragging a target: edges, glides and lines drawn by hand. */

import type { Sketch, NoteOut, Operation } from "../document/model";
import { laneOperation } from "./shape_level";

const MS_PER_PIXEL = 2;
const BEND_PER_PIXEL = 1 / 60;
const LONGEST_MS = 500;
const STEP_S = 0.004;

export function edgeSketch(note: NoteOut, side: "start" | "end", time_s: number): Sketch {
  const room = 0.04;
  const at_s = side === "start" ? Math.min(time_s, note.end_s - room) : Math.max(time_s, note.start_s + room);
  return { kind: "edge", noteId: note.id, side, at_s: Math.max(0, at_s) };
}

export function glideSketch(note: NoteOut, dx: number, dy: number): Sketch {
  const glide_ms = Math.min(LONGEST_MS, Math.max(0, note.gesture.glide_ms + dx * MS_PER_PIXEL));
  const bend = Math.min(1, Math.max(-1, note.gesture.glide_bend - dy * BEND_PER_PIXEL));
  return { kind: "glide", noteId: note.id, glide_ms, bend: Math.abs(bend) < 0.08 ? 0 : bend };
}

/** A line with one more point; going back in time rubs the overtaken points out, `straight` keeps only the ends. */
export function extendLine(points: [number, number][], to: [number, number], straight: boolean): [number, number][] {
  const first = points[0]!;
  if (straight) return to[0] > first[0] + STEP_S ? [first, to] : [first];
  const kept = points.filter(([time_s]) => time_s < to[0] - STEP_S || time_s === first[0]);
  return to[0] > kept.at(-1)![0] + STEP_S ? [...kept, to] : kept;
}

/** The edit that a finished gesture asks for, or null. */
export function sketchOperation(sketch: Sketch, options: { follow: boolean }): Operation | null {
  switch (sketch.kind) {
    case "edge":
      return {
        type: "move_edge",
        note_id: sketch.noteId,
        side: sketch.side,
        at_s: sketch.at_s,
        follow: options.follow,
      };
    case "glide":
      return {
        type: "set",
        note_ids: [sketch.noteId],
        values: { glide_ms: Math.round(sketch.glide_ms), glide_bend: Math.round(sketch.bend * 100) / 100 },
      };
    case "line":
      return sketch.points.length > 1 ? { type: "draw", points: sketch.points, keep_fine: sketch.fine } : null;
    case "rub":
      return { type: "rub_out", start_s: sketch.start_s, end_s: sketch.end_s };
    case "split":
      return { type: "split", note_id: sketch.proposal.note_id, at_s: sketch.proposal.at_s, exact: true };
    default:
      return laneOperation(sketch);
  }
}
