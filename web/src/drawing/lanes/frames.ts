/** Frames of the curves under the window. */

import { framesInView, type Lanes, timeToX } from "../../geometry/viewport";
import type { SheetData } from "../sheet_data";

export const SAME = 0.002; // semitones; two threads are one

export function frameRange(data: SheetData): [number, number] {
  return framesInView(data.view, data.curves.hop_s, data.curves.sung.length);
}

/** Several frames share a pixel: a column of pixels then stands for all of them. */
export function isFar(data: SheetData, lanes: Lanes): boolean {
  const { hop_s } = data.curves;
  return timeToX(hop_s, data.view, lanes) - timeToX(0, data.view, lanes) < 0.6;
}
