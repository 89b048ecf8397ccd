/** Dragging a change of key along the ruler: from bar to bar, with Shift from beat to beat. */

import type { Sketch } from "../document/track/model";
import type { KeyAt } from "../document/schema";
import { placeText } from "../document/track/places";
import { barAndBeat, type MeterLike } from "../document/time/time_text";
import { placeOf } from "../document/music/tempo_map";
import type { Gesture } from "./gesture";

const REACH_PX = 6;
const SLACK_PX = 3;

export interface KeyDrag {
  /** which of the changes */
  index: number;
  changes: readonly KeyAt[];
  fromX: number;
  meter: MeterLike;
}

/** Which of some moments has its mark at a pixel of the ruler; −1 for none. */
export function markUnder(x: number, marks: readonly number[], placeOf: (song_s: number) => number): number {
  return marks.findIndex((at_s) => Math.abs(placeOf(at_s) - x) <= REACH_PX);
}

/** The bar or beat nearest to a moment, from bar 1 on. */
export function nearestPlace(song_s: number, meter: MeterLike, fine: boolean): { bar: number; beat: number } {
  const { bar, beat, since_s } = barAndBeat(song_s, meter);
  const here = { bar, beat: fine ? beat : 1 };
  const next = fine
    ? barAndBeat(placeOf(bar, beat, meter) + 1.001 * beatLength(bar, beat, meter), meter)
    : { bar: bar + 1, beat: 1 };
  const at = (place: { bar: number; beat: number }): number => placeOf(place.bar, place.beat, meter);
  const found = song_s - at(here) <= at(next) - song_s || since_s < 0 ? here : next;
  return found.bar < 1 ? { bar: 1, beat: 1 } : { bar: found.bar, beat: found.beat };
}

function beatLength(bar: number, beat: number, meter: MeterLike): number {
  return placeOf(bar, beat + 1, meter) - placeOf(bar, beat, meter);
}

export function keyGesture({ index, changes, fromX, meter }: KeyDrag): Gesture {
  let moved: { bar: number; beat: number } | null = null;
  return {
    move(at) {
      if (moved === null && Math.abs(at.x - fromX) < SLACK_PX) return {};
      moved = nearestPlace(at.song_s, meter, at.grain === "fine");
      const words = `bar ${placeText(moved)}`;
      const sketch: Sketch = { kind: "key", at_s: placeOf(moved.bar, moved.beat, meter), words };
      return { sketch };
    },
    end() {
      if (!moved) return {};
      const place = moved;
      const others = changes.filter(
        (one, i) => i !== index && !(one.bar === place.bar && (one.beat ?? 1) === place.beat),
      );
      return { keyChanges: [...others, { ...changes[index]!, ...place }] };
    },
  };
}
