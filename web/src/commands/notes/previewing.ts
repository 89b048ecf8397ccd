/** Trying an operation: the sheet and the ear follow it, nothing is stored until it is taken. */

import { api } from "../../api/client";
import { withDelta } from "../../document/track/delta";
import type { Operation } from "../../document/track/model";
import type { PreviewOut } from "../../document/schema";
import { store, viewIn } from "../../document/track/store";
import { edit, loadPieces, withPieces } from "./editing";
import { listenTo, previewName, transport } from "../../listening/playing";
import { report } from "../../session/report";

let turn = 0;

/** Show an operation on the sheet and under “preview”; answers what it would change, or null when it cannot be done. */
export async function tryOut(operation: Operation): Promise<PreviewOut | null> {
  const { content, curves, preview } = store.getState();
  if (!content || !curves) return null;
  const mine = ++turn;
  let answer: PreviewOut | null = null;
  const fine = await report(async () => {
    const tried = await api.preview(content.track_id, content.step_id, operation);
    const pieces = await loadPieces(content.track_id, { preview: tried.preview_id }, tried.curves);
    const own = withPieces(curves, pieces);
    if (mine !== turn) return;
    answer = tried;
    const after = withDelta(content, tried, content);
    const { notes, air, gaps, pins, glazes, borrows, level_stretches } = after;
    const name = previewName(tried.preview_id);
    void transport.moved(content.track_id, content.step_id, name, tried.changed);
    if (preview)
      void transport.moved(content.track_id, previewName(preview.id), name, [{ start_s: 0, end_s: Infinity }]);
    store.setState({
      preview: { id: tried.preview_id, notes, air, gaps, pins, glazes, borrows, level_stretches, curves: own },
      view: viewIn(after),
    });
    listenTo("preview");
  });
  if (!fine && mine === turn) dropPreview();
  return answer;
}

/** Stop trying, as it was before. */
export function dropPreview(): void {
  turn += 1;
  if (store.getState().preview === null && store.getState().listening !== "preview") return;
  store.setState({ preview: null, view: viewIn(store.getState().content) });
  listenTo("tuned");
}

/** Take what was tried as one step. */
export async function takePreview(operation: Operation): Promise<boolean> {
  dropPreview();
  return edit(operation);
}
