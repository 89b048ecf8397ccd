/** Rounding a dragged pitch as the server will. */

import { type Lines, lineNear } from "./pitch_names";

export function roundPitch(midi: number, lines: Lines, rounding: string): number {
  if (rounding === "free") return midi;
  return lineNear(lines, midi, rounding === "scale")?.midi ?? midi;
}
