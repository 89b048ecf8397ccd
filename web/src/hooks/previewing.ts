/** Trying an operation: the sheet and the ear follow it, nothing is stored until it is taken. */

import { api } from "../api/client";
import type { PreviewOut } from "../document/schema";
import { store } from "../document/store";
import { edit, editedCurves } from "./editing";
import { listenTo, transport } from "./playing";
import { report } from "./report";

let turn = 0;

/** Show an operation on the sheet and under “preview”; answers what it would change, or null when it cannot be done. */
export async function tryOut(operation: Record<string, unknown>): Promise<PreviewOut | null> {
  const { content, analysis } = store.getState();
  if (!content || !analysis) return null;
  const mine = ++turn;
  let answer: PreviewOut | null = null;
  const fine = await report(async () => {
    const tried = await api.preview(content.track_id, operation);
    const curves = await editedCurves(content.track_id, analysis.frames, true);
    if (mine !== turn) return;
    answer = tried;
    store.setState({ preview: { notes: tried.notes, air: tried.air, gaps: tried.gaps, curves } });
    transport.changed(content.track_id, [{ start_s: 0, end_s: analysis.duration_s }]);
    listenTo("preview");
  });
  if (!fine && mine === turn) dropPreview();
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
