/** Trying an operation: the sheet and the ear follow it, nothing is stored until it is taken. */

import { api } from "../../api/client";
import { withPieces } from "../../document/track/curve_pieces";
import { withDelta } from "../../document/track/delta";
import type { Content, Curves, Operation, Together } from "../../document/track/model";
import type { DeriveIn, PreviewOut } from "../../document/schema";
import { store, viewIn } from "../../document/track/store";
import { listenTo, previewName, transport } from "../../listening/playing";
import { perSession } from "../../session/editor_session";
import { Question } from "../../document/question";
import { report } from "../../session/report";
import { edit } from "./editing";

const trying = perSession((session) => new Question(session.ends));

type Try = (content: Content, signal: AbortSignal) => Promise<{ tried: PreviewOut; together: Together }>;

/** Show what is tried on the sheet and under “preview”; answers what it would change, or null when it cannot be done. */
async function show(send: Try): Promise<PreviewOut | null> {
  const { content, curves } = store.getState();
  if (!content || !curves) return null;
  const signal = trying().ask();
  let answer: PreviewOut | null = null;
  const fine = await report(async () => {
    const { tried, together } = await send(content, signal);
    if (signal.aborted) return;
    answer = tried;
    lay(content, curves, tried, together);
    listenTo("preview");
  });
  if (!fine && !signal.aborted) dropPreview();
  return answer;
}

function lay(content: Content, curves: Curves, tried: PreviewOut, together: Together): void {
  const { preview } = store.getState();
  const after = withDelta(content, tried, content);
  const { notes, air, gaps, pins, glazes, borrows, level_stretches } = after;
  const name = previewName(tried.preview_id);
  if (together.kind !== "beside") void transport.moved(content.track_id, content.step_id, name, tried.changed);
  if (preview) void transport.moved(content.track_id, previewName(preview.id), name, [{ start_s: 0, end_s: Infinity }]);
  const own = withPieces(curves, tried.curves);
  store.setState({
    preview: { id: tried.preview_id, together, notes, air, gaps, pins, glazes, borrows, level_stretches, curves: own },
    view: viewIn(after),
  });
}

/** Try an operation on the open track; `lead` is a track that it is heard with. */
export function tryOut(operation: Operation, lead: string | null = null): Promise<PreviewOut | null> {
  return show(async (content, signal) => ({
    tried: await api.preview(content.track_id, content.step_id, operation, signal),
    together: lead === null ? { kind: "alone" } : { kind: "with", lead },
  }));
}

/** Try voices that would be made of the open track: they are heard with it, where they would be. */
export function tryVoices(wanted: DeriveIn): Promise<PreviewOut | null> {
  return show(async (content, signal) => {
    const { first, voices } = await api.tryVoices(content.track_id, { ...wanted, step: content.step_id }, signal);
    return { tried: first, together: { kind: "beside", voices } };
  });
}

/** Stop trying, as it was before. */
export function dropPreview(): void {
  trying().callOff();
  if (store.getState().preview === null && store.getState().listening !== "preview") return;
  store.setState({ preview: null, view: viewIn(store.getState().content) });
  listenTo("tuned");
}

/** Take what was tried as one step. */
export async function takePreview(operation: Operation): Promise<boolean> {
  dropPreview();
  return edit(operation);
}
