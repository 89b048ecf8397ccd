/** Dragging a pin along the ruler: between pins everything gives way. */

import type { PinOut, Sketch } from "../document/track/model";
import type { Gesture } from "./gesture";

const REACH_PX = 6;
const SLACK_PX = 3;

export interface PinDrag {
  pinId: string;
  fromX: number;
  secondsPerPixel: number;
}

/** The pin whose head is at a pixel of the ruler. */
export function pinUnder(x: number, pins: readonly PinOut[], placeOf: (at_s: number) => number): PinOut | null {
  return pins.find((pin) => Math.abs(placeOf(pin.at_s) - x) <= REACH_PX) ?? null;
}

export function pinGesture(drag: PinDrag): Gesture {
  let by_ms = 0;
  return {
    move(at) {
      const raw = 1000 * (at.x - drag.fromX) * drag.secondsPerPixel;
      by_ms =
        Math.abs(at.x - drag.fromX) < SLACK_PX ? 0 : at.grain === "fine" ? Math.round(raw) : 5 * Math.round(raw / 5);
      const sketch: Sketch = { kind: "pin", pinId: drag.pinId, by_ms };
      return { sketch };
    },
    end: () => ({ operation: by_ms === 0 ? null : { type: "move_pins", pin_ids: [drag.pinId], by_ms } }),
  };
}
