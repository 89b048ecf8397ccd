/** Dragging a level stretch: its level by the cap, its ends, or a new one along the lane. */

import type { LevelStretchOut, Operation, Sketch } from "../document/track/model";
import { VALUES } from "../document/track/values";
import type { StretchHit } from "../geometry/level_stretch";
import type { At, Gesture, Grain } from "./gesture";

const DB_PER_PIXEL = 0.25;
const FINE_DB_PER_PIXEL = 0.05;
const STEPS_DB: Record<Grain, number> = { fine: 0.1, own: 0.5, coarse: 3 };
const { min: SOFTEST_DB, max: LOUDEST_DB } = VALUES.level_db;
const SHORTEST_S = 0.02;
const SLACK_PX = 3;

type StretchSketch = Extract<Sketch, { kind: "level_stretch" }>;
type Place = Pick<At, "time_s" | "y" | "grain">;

/** What a drag of a stretch shows at a place. */
export function stretchSketch(
  stretch: LevelStretchOut,
  part: StretchHit["part"],
  fromY: number,
  at: Place,
): StretchSketch | null {
  const { id, start_s, end_s } = stretch;
  const level_db = stretch.muted ? null : stretch.level_db;
  const shown = { kind: "level_stretch" as const, id, start_s, end_s, level_db };
  if (part === "start") return { ...shown, start_s: Math.max(0, Math.min(at.time_s, end_s - SHORTEST_S)) };
  if (part === "end") return { ...shown, end_s: Math.max(at.time_s, start_s + SHORTEST_S) };
  const up = fromY - at.y;
  if (Math.abs(up) < SLACK_PX) return null;
  const step = STEPS_DB[at.grain];
  const db = (level_db ?? SOFTEST_DB) + up * (at.grain === "fine" ? FINE_DB_PER_PIXEL : DB_PER_PIXEL);
  const near = Math.round(Math.round(db / step) * step * 10) / 10;
  return { ...shown, level_db: Math.min(LOUDEST_DB, Math.max(SOFTEST_DB, near)) };
}

/** A new stretch between two moments; null while it is too short. */
export function newStretch(from_s: number, to_s: number, level_db: number): StretchSketch | null {
  const [start_s, end_s] = [Math.max(0, Math.min(from_s, to_s)), Math.max(from_s, to_s)];
  return end_s - start_s < SHORTEST_S ? null : { kind: "level_stretch", id: null, start_s, end_s, level_db };
}

/** The edit that a finished drag asks for. */
export function stretchOperation({ id, start_s, end_s, level_db }: StretchSketch): Operation {
  if (id === null) return { type: "level_stretch", start_s, end_s, level_db };
  const level = level_db === null ? {} : { level_db };
  return { type: "set_level_stretch", stretch_ids: [id], values: { start_s, end_s, ...level } };
}

/** A gesture whose sketch becomes its edit. */
function sketching(draw: (at: At) => StretchSketch | null): Gesture {
  let sketch: StretchSketch | null = null;
  return {
    move(at) {
      sketch = draw(at);
      return { sketch };
    },
    end: () => ({ operation: sketch && stretchOperation(sketch) }),
  };
}

export function stretchGesture({ stretch, part }: StretchHit, fromY: number): Gesture {
  return sketching((at) => stretchSketch(stretch, part, fromY, at));
}

export function newStretchGesture(from_s: number, level_db: number): Gesture {
  return sketching((at) => newStretch(from_s, at.time_s, level_db));
}
