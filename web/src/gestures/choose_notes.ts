/** A frame drawn over the sheet chooses the notes it touches; with Shift in addition to `before`. */

import type { NoteOut } from "../document/track/model";
import { notesIn } from "../geometry/hit_test";
import type { Gesture } from "./gesture";

export function frameGesture(from: { x: number; y: number }, notes: NoteOut[], before: ReadonlySet<string>): Gesture {
  return {
    move(at) {
      const box = { x0: from.x, y0: from.y, x1: at.x, y1: at.y };
      const touched = notesIn(box, notes, at.view, at.lanes);
      return { sketch: { kind: "frame", ...box }, selection: new Set([...before, ...touched]) };
    },
    end: () => ({}),
  };
}
