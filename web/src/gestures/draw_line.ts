/** Drawing a pitch curve by hand; Alt keeps it straight, an exact line leaves the sung fine movement out. */

import type { Gesture } from "./gesture";

const STEP_S = 0.004;
/** how long a line on allowed pitches takes from one to the next */
const WAY_S = 0.03;

export type Line = [number, number][];

/** A line with one more point; going back in time rubs the overtaken points out, `straight` keeps only the ends. */
export function extendLine(points: Line, to: [number, number], straight: boolean): Line {
  const first = points[0]!;
  if (straight) return to[0] > first[0] + STEP_S ? [first, to] : [first];
  const kept = points.filter(([time_s]) => time_s < to[0] - STEP_S || time_s === first[0]);
  return to[0] > kept.at(-1)![0] + STEP_S ? [...kept, to] : kept;
}

/** A line that keeps to allowed pitches: flat on each as long as it is the nearest, with a short way to the next. */
export function onAllowed(points: Line, snap: (midi: number) => number): Line {
  const kept: Line = [];
  for (const [time_s, midi] of points) {
    const pitch = snap(midi);
    const last = kept.at(-1);
    if (last && last[1] !== pitch) {
      const leaves = Math.max(time_s - WAY_S, kept.at(-2)?.[1] === last[1] ? kept.at(-2)![0] : last[0]);
      if (leaves > last[0]) kept.push([leaves, last[1]]);
    }
    if (last && last[1] === pitch && kept.at(-2)?.[1] === pitch) kept.pop();
    kept.push([time_s, pitch]);
  }
  return kept;
}

/** A line drawn from a place on; with `snap` it keeps to the pitches that this gives. */
export function lineGesture(
  from: { time_s: number; midi: number },
  exact: boolean,
  snap?: (midi: number) => number,
): Gesture {
  let drawn: Line = [[from.time_s, from.midi]];
  const line = (): Line => (snap ? onAllowed(drawn, snap) : drawn);
  return {
    move(at) {
      drawn = extendLine(drawn, [at.time_s, at.midi], at.alone);
      return { sketch: { kind: "line", points: line(), exact } };
    },
    end: () => ({ operation: drawn.length > 1 ? { type: "draw", points: line(), keep_fine: !exact } : null }),
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
