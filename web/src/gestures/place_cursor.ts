/** A press or drag on the ruler places the cursor. */

import type { Gesture } from "./gesture";

export function cursorGesture(): Gesture {
  return { move: (at) => ({ cursor_s: Math.max(0, at.song_s) }), end: () => ({}) };
}
