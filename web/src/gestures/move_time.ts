/** Moving notes, or one edge of them, in time. */

import type { NoteOut, Operation, Sketch, TimeEdge } from "../document/track/model";
import { meterAt, type MeterLike } from "../document/music/tempo_map";
import type { At, Gesture } from "./gesture";

const SLACK_PX = 3;
const EDGE_PX = 7;
const OWN_MS = 5;

/** How far it can go, in ms; filled in when the server has answered. */
export interface Room {
  least_ms: number;
  most_ms: number;
}

export interface TimeDrag {
  noteIds: string[];
  edge: TimeEdge;
  /** where what is moved lies in the song */
  place_s: number;
  fromX: number;
  secondsPerPixel: number;
  /** what comes after is taken along */
  follow: boolean;
  /** parts of a beat that Ctrl goes by; null without a tempo */
  meter: MeterLike | null;
  room: Room | null;
}

export type TimeSketch = Extract<Sketch, { kind: "time" }>;

/** The edge of a note under a pixel; both in its middle, which short notes keep free. */
export function edgeUnder(x: number, start: number, end: number): TimeEdge {
  const reach = Math.min(EDGE_PX, (end - start) / 4);
  if (x < start + reach) return "start";
  return x > end - reach ? "end" : "both";
}

/** The step that keys and coarse drags go by at a moment: a quarter of a beat. */
export function gridStep(at_s: number, song: MeterLike): number {
  return meterAt(at_s, song).beat_s / 4;
}

/** By how many ms something at `place_s` moves when it is put near `to_s` and falls on the grid. */
export function ontoGrid(place_s: number, to_s: number, song: MeterLike): number {
  const step = gridStep(to_s, song);
  const { start_s } = meterAt(to_s, song);
  const line = start_s + step * Math.round((to_s - start_s) / step);
  return 1000 * (line - place_s);
}

/** What is shown of a drag at a place; null while it has not begun to move. */
export function timeSketch(drag: TimeDrag, at: Pick<At, "x" | "grain" | "alone">): TimeSketch | null {
  const dx = at.x - drag.fromX;
  if (Math.abs(dx) < SLACK_PX) return null;
  const raw = 1000 * dx * drag.secondsPerPixel;
  const own = Math.round(raw / OWN_MS) * OWN_MS;
  const coarse = drag.meter ? ontoGrid(drag.place_s, drag.place_s + raw / 1000, drag.meter) : own;
  const wanted = at.grain === "fine" ? Math.round(raw) : at.grain === "coarse" ? coarse : own;
  const { least_ms, most_ms } = drag.room ?? { least_ms: -Infinity, most_ms: Infinity };
  const by_ms = Math.min(Math.max(wanted, least_ms), most_ms);
  const follow = drag.follow && !at.alone;
  return { kind: "time", noteIds: drag.noteIds, edge: drag.edge, by_ms, follow, limited: by_ms !== wanted };
}

/** The edit that a finished drag asks for. */
export function timeOperation(sketch: TimeSketch): Operation | null {
  const { noteIds: note_ids, edge, follow } = sketch;
  const by_ms = Math.round(sketch.by_ms * 1000) / 1000;
  if (by_ms === 0) return null;
  return edge === "both"
    ? { type: "slip", note_ids, by_ms, follow }
    : { type: "shift_edge", note_ids, edge, by_ms, follow };
}

export function timeGesture(drag: TimeDrag, note: NoteOut, chosen: ReadonlySet<string>): Gesture {
  let sketch: TimeSketch | null = null;
  return {
    move(at) {
      sketch = timeSketch(drag, at) ?? (sketch && { ...sketch, by_ms: 0 });
      return { sketch };
    },
    end(at) {
      if (sketch) return { operation: timeOperation(sketch) };
      return chosen.size > 1 && !at.adding ? { selection: new Set([note.id]) } : {};
    },
  };
}
