/** Rounding a dragged pitch as the server will. */

import { type KeyLike, scalePitches, tuningOffset } from "./pitch_names";

export function roundPitch(midi: number, key: KeyLike, rounding: string): number {
  if (rounding === "free") return midi;
  const offset = tuningOffset(key);
  const position = midi - offset;
  if (rounding === "semitone") return Math.floor(position + 0.5) + offset;
  const near = scalePitches(key, position - 12, position + 12);
  let best = near[0] ?? position;
  for (const pitch of near) if (Math.abs(pitch - position) < Math.abs(best - position)) best = pitch;
  return best + offset;
}
