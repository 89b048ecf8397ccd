/** Dragging levels in the air and level lanes, edges of air, and stretches of time. */

import type { AirOut, Sketch, Operation } from "../document/track/model";
import type { At, Ending, Gesture, Grain } from "./gesture";

const DB_PER_PIXEL = 0.5;
const FINE_DB_PER_PIXEL = 0.1;
const STEPS_DB: Record<Grain, number> = { fine: 0.1, own: 0.5, coarse: 3 };
const SLACK_PX = 3;

export type LaneDrag =
  | { kind: "level"; of: "note" | "air"; ids: string[]; fromY: number; moved: boolean }
  | { kind: "air_edge"; event: AirOut; side: "start" | "end" }
  | { kind: "stretch"; from_s: number };

/** What a drag in a lane shows at a place; null while it has not begun to move. */
export function laneSketch(drag: LaneDrag, at: Pick<At, "time_s" | "y" | "grain">): Sketch | null {
  switch (drag.kind) {
    case "level": {
      const up = drag.fromY - at.y;
      if (!drag.moved && Math.abs(up) < SLACK_PX) return null;
      drag.moved = true;
      const db = up * (at.grain === "fine" ? FINE_DB_PER_PIXEL : DB_PER_PIXEL);
      const step = STEPS_DB[at.grain];
      return { kind: "level", of: drag.of, ids: drag.ids, db: Math.round(Math.round(db / step) * step * 10) / 10 };
    }
    case "air_edge": {
      const { event, side } = drag;
      const at_s =
        side === "start" ? Math.min(at.time_s, event.end_s - 0.015) : Math.max(at.time_s, event.start_s + 0.015);
      return { kind: "air_edge", airId: event.id, side, at_s: Math.max(0, at_s) };
    }
    case "stretch": {
      const [start_s, end_s] = [Math.min(drag.from_s, at.time_s), Math.max(drag.from_s, at.time_s)];
      return end_s - start_s < 0.015 ? null : { kind: "stretch", start_s: Math.max(0, start_s), end_s, done: false };
    }
  }
}

/** The edit that a finished drag asks for, or null. */
export function laneOperation(sketch: Sketch): Operation | null {
  if (sketch.kind === "level" && sketch.db !== 0) {
    return sketch.of === "air"
      ? { type: "nudge_air", air_ids: sketch.ids, by_db: sketch.db }
      : { type: "nudge", note_ids: sketch.ids, values: { level_db: sketch.db } };
  }
  if (sketch.kind === "air_edge")
    return { type: "move_air_edge", air_id: sketch.airId, side: sketch.side, at_s: sketch.at_s };
  return null;
}

/** A press in the air or level lane; `pressed` are the events under it, which a press alone chooses. */
export function laneGesture(drag: LaneDrag, pressed: readonly string[], playing: boolean): Gesture {
  let sketch: Sketch | null = null;
  const pressOnly = (at: At): Ending => {
    if (drag.kind === "stretch") return playing ? {} : { cursor_s: Math.max(0, at.song_s) };
    const chooses =
      drag.kind === "level" && drag.of === "air" && drag.ids.length > 1 && !at.adding && pressed.length > 0;
    return chooses ? { airSelection: new Set(pressed) } : {};
  };
  return {
    move(at) {
      sketch = laneSketch(drag, at);
      return { sketch };
    },
    end(at) {
      if (!sketch) return pressOnly(at);
      return sketch.kind === "stretch" ? { sketch: { ...sketch, done: true } } : { operation: laneOperation(sketch) };
    },
  };
}
