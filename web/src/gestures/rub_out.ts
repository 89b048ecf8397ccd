/** Rubbing out what was drawn by hand over a stretch of time. */

import type { Gesture } from "./gesture";

export function rubGesture(from_s: number): Gesture {
  let stretch = { start_s: from_s, end_s: from_s };
  return {
    move(at) {
      stretch = { start_s: Math.min(from_s, at.time_s), end_s: Math.max(from_s, at.time_s) };
      return { sketch: { kind: "rub", ...stretch } };
    },
    end: () => ({ operation: { type: "rub_out", ...stretch } }),
  };
}
