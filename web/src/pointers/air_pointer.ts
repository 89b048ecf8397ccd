/** What lies under the pointer in the air lane, and what a press there takes hold of. */

import { store } from "../document/track/store";
import { airAt, type AirHit } from "../geometry/air";
import type { At } from "../gestures/gesture";
import type { LaneDrag } from "../gestures/drag_in_lane";
import { selectAir } from "../commands/notes/air";

/** The event or event edge under a point. */
export function airUnder({ x, y, view, lanes }: At): AirHit | null {
  const { content } = store.getState();
  if (!content || y < lanes.air.top || y >= lanes.level.top) return null;
  return airAt(x, content.air, view, lanes);
}

/** A press in the air lane on `hit`: on an event its level or edge is taken, beside one a stretch of time. */
export function beginInAir(at: At, hit: AirHit | null): LaneDrag | null {
  if (!hit) {
    store.setState({ selection: new Set(), airSelection: new Set(), sketch: null });
    return { kind: "stretch", from_s: at.time_s };
  }
  if (at.adding) {
    selectAir([hit.event], { add: true });
    return null;
  }
  if (!store.getState().airSelection.has(hit.event.id)) selectAir([hit.event]);
  if (hit.side) return { kind: "air_edge", event: hit.event, side: hit.side };
  return { kind: "level", of: "air", ids: [...store.getState().airSelection], fromY: at.y, moved: false };
}
