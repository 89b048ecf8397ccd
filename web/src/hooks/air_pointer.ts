/** What a pointer does in the air lane: an event's level or edge is taken, beside one a stretch of time is marked. */

import { store, timesNow } from "../document/store";
import { sourceToSong } from "../document/times";
import { airAt, type AirHit } from "../geometry/air";
import { layLanes } from "../geometry/viewport";
import type { LaneDrag } from "../pointing/shape_level";
import { selectAir } from "./air";
import { pointerPlace } from "./splitting";

/** The event or event edge under a point. */
export function airUnder(x: number, y: number, width: number, height: number): AirHit | null {
  const { content, view } = store.getState();
  const lanes = layLanes(width, height);
  if (!content || y < lanes.air.top || y >= lanes.level.top) return null;
  return airAt(x, content.air, view, lanes);
}

/** A press in the air lane: on an event its level or edge is taken, beside one a stretch of time. */
export function beginInAir(event: PointerEvent, hit: AirHit | null, time_s: number, y: number): LaneDrag | null {
  const { airSelection } = store.getState();
  if (!hit) {
    store.setState({ selection: new Set(), airSelection: new Set(), sketch: null });
    return { kind: "stretch", from_s: time_s };
  }
  if (event.shiftKey) {
    selectAir([hit.event], { add: true });
    return null;
  }
  if (!airSelection.has(hit.event.id)) selectAir([hit.event]);
  if (hit.side) return { kind: "air_edge", event: hit.event, side: hit.side };
  return { kind: "level", of: "air", ids: [...store.getState().airSelection], fromY: y, moved: false };
}

/** A press without a drag: on one of several chosen events it chooses that one, on nothing it places the cursor. */
export function releaseInAir(drag: LaneDrag, event: PointerEvent): void {
  const { content, airSelection, playing } = store.getState();
  if (drag.kind === "level" && drag.of === "air" && airSelection.size > 1 && !event.shiftKey) {
    const pressed = content?.air.filter((a) => pointerPlace.time_s >= a.start_s && pointerPlace.time_s <= a.end_s);
    if (pressed?.length) selectAir(pressed);
  }
  if (drag.kind === "stretch" && !playing)
    store.setState({ cursor_s: Math.max(0, sourceToSong(drag.from_s, timesNow())) });
}
