/** Drawing a pitch curve by hand; Alt keeps it straight, an exact line leaves the sung fine movement out. */

import type { Gesture } from "./gesture";

const STEP_S = 0.004;

export type Line = [number, number][];

/** A line with one more point; going back in time rubs the overtaken points out, `straight` keeps only the ends. */
export function extendLine(points: Line, to: [number, number], straight: boolean): Line {
  const first = points[0]!;
  if (straight) return to[0] > first[0] + STEP_S ? [first, to] : [first];
  const kept = points.filter(([time_s]) => time_s < to[0] - STEP_S || time_s === first[0]);
  return to[0] > kept.at(-1)![0] + STEP_S ? [...kept, to] : kept;
}

export function lineGesture(from: { time_s: number; midi: number }, exact: boolean): Gesture {
  let points: Line = [[from.time_s, from.midi]];
  return {
    move(at) {
      points = extendLine(points, [at.time_s, at.midi], at.alone);
      return { sketch: { kind: "line", points, exact } };
    },
    end: () => ({ operation: points.length > 1 ? { type: "draw", points, keep_fine: !exact } : null }),
  };
}

/** A line that is one more of those a melody is read from. */
export function melodyGesture(from: { time_s: number; midi: number }, before: readonly Line[]): Gesture {
  let points: Line = [[from.time_s, from.midi]];
  return {
    move(at) {
      points = extendLine(points, [at.time_s, at.midi], at.alone);
      return { sketch: { kind: "line", points, exact: true } };
    },
    end: () => (points.length > 1 ? { melodyLines: [...before, points] } : {}),
  };
}
