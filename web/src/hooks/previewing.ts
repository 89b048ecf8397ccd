/** Trying an operation: the sheet and the ear follow it, nothing is stored until it is taken. */

import { api } from "../api/client";
import type { PreviewOut } from "../document/schema";
import { store } from "../document/store";
import { edit } from "./editing";
import { listenTo, transport } from "./playing";
import { report } from "./report";

let turn = 0;

/** Show an operation on the sheet and under “preview”; answers what it would change, or null when it cannot be done. */
export async function tryOut(operation: Record<string, unknown>): Promise<PreviewOut | null> {
  const { document, analysis } = store.getState();
  if (!document || !analysis) return null;
  const mine = ++turn;
  let answer: PreviewOut | null = null;
  await report(async () => {
    const tried = await api.preview(document.track_id, operation);
    const curve = await api.tunedCurve(document.track_id, true);
    if (mine !== turn) return;
    answer = tried;
    store.setState({
      preview: {
        notes: tried.notes,
        air: tried.air,
        gaps: tried.gaps,
        tuned: new Float32Array(curve, 0, analysis.frames),
        levelChange: new Float32Array(curve, 4 * analysis.frames, analysis.frames),
      },
    });
    transport.changed(document.track_id, [{ start_s: 0, end_s: analysis.duration_s }]);
    listenTo("preview");
  });
  return answer;
}

/** Stop trying, as it was before. */
export function dropPreview(): void {
  turn += 1;
  if (store.getState().preview === null && store.getState().listening !== "preview") return;
  store.setState({ preview: null });
  listenTo("tuned");
}

/** Take what was tried as one step. */
export async function takePreview(operation: Record<string, unknown>): Promise<boolean> {
  dropPreview();
  return edit(operation);
}
