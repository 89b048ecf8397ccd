/** Opening a track, and edits: every one goes to the server and comes back as the new content. */

import { api } from "../api/client";
import { ApiError } from "../api/errors";
import type { Curves, DocumentOut, EditedCurves, NoteOut } from "../document/model";
import { store } from "../document/store";
import type { ValueSpec } from "../document/values";
import { clampView, fitStretch } from "../geometry/viewport";
import { restoreView } from "./address";
import { transport } from "./playing";
import { report, say } from "./report";

/** The curves that edits change, of the track or of what is tried out. */
export async function editedCurves(trackId: string, frames: number, preview = false): Promise<EditedCurves> {
  const answer = await api.tunedCurve(trackId, preview);
  const part = (index: number): Float32Array => new Float32Array(answer, 4 * frames * index, frames);
  return { tuned: part(0), levelChange: part(1), sung: part(2) };
}

async function loadCurves(trackId: string, frames: number, hop_s: number): Promise<Curves> {
  const [curve, edited, waveform] = await Promise.all([
    api.curve(trackId),
    editedCurves(trackId, frames),
    api.waveform(trackId),
  ]);
  return {
    ...edited,
    hop_s,
    level: new Float32Array(curve, 4 * frames, frames),
    confidence: new Uint8Array(curve, 8 * frames, frames),
    waveform: new Int8Array(waveform),
  };
}

/** Open a track in the editor; without one, the first vocal that is ready. */
export async function openTrack(songId: string, trackId: string | null, query: URLSearchParams): Promise<void> {
  await report(async () => {
    const song = await api.song(songId);
    const vocals = song.tracks.filter((track) => track.ready && track.role !== "backing");
    const track = vocals.find((candidate) => candidate.id === trackId) ?? vocals[0];
    if (!track) throw new ApiError("This song has no vocal that is ready yet. Bring one in first.", 404);
    const [content, analysis] = await Promise.all([api.content(track.id), api.analysis(track.id)]);
    const curves = await loadCurves(track.id, analysis.frames, analysis.hop_s);
    store.setState({ song, trackId: track.id, content, analysis, curves, selection: new Set(), drag: null });
    store.setState({
      airSelection: new Set(),
      spectrum: null,
      airAs: "level",
      sketch: null,
      preview: null,
      copied: [],
      markedStep: null,
      tool: "select",
    });
    if (!restoreView(query)) showPhrase(content.notes[0]?.phrase ?? 0);
    history.replaceState(null, "", `#/song/${song.id}/track/${track.id}?${query.toString()}`);
    if (analysis.polyphonic) say("This does not sound like one voice; notes and pitches are uncertain.", "trouble");
  });
}

export function showPhrase(index: number): void {
  const { content, analysis, view } = store.getState();
  const phrase = analysis?.phrases.find((candidate) => candidate.index === index);
  if (!phrase || !content || !analysis) return;
  const notes = content.notes.filter((note) => note.phrase === index);
  const pitches = notes.flatMap((note) => [note.centre_midi, note.target_midi]);
  store.setState({ view: clampView(fitStretch(phrase.start_s, phrase.end_s, pitches, view), analysis.duration_s) });
}

async function take(content: DocumentOut): Promise<void> {
  const { curves, analysis } = store.getState();
  if (!curves || !analysis) return;
  transport.changed(content.track_id, content.changed);
  const known = new Set(content.notes.map((note) => note.id));
  const selection = new Set([...store.getState().selection].filter((id) => known.has(id)));
  const air = new Set(content.air.map((event) => event.id));
  const airSelection = new Set([...store.getState().airSelection].filter((id) => air.has(id)));
  store.setState({ content, selection, airSelection });
  if (content.changed.length === 0) return;
  const edited = await editedCurves(content.track_id, analysis.frames);
  const now = store.getState();
  if (now.content?.revision !== content.revision || !now.curves) return;
  store.setState({ curves: { ...now.curves, ...edited } });
}

let last: Promise<unknown> = Promise.resolve();

/** Changes run one after the other, each on the revision the one before it left. */
function change(send: (trackId: string, revision: number) => Promise<DocumentOut>): Promise<boolean> {
  const next = last.then(() =>
    report(async () => {
      const { content } = store.getState();
      if (!content) return;
      try {
        await take(await send(content.track_id, content.revision));
      } catch (error) {
        if (error instanceof ApiError && error.status === 409) await refresh(content.track_id);
        throw error;
      }
    }),
  );
  last = next;
  return next;
}

/** Resolves when every change asked for so far has been answered. */
export function settled(): Promise<unknown> {
  return last;
}

/** Take the server's newer state after a stale edit. */
async function refresh(trackId: string): Promise<void> {
  const { analysis } = store.getState();
  if (!analysis) return;
  const content = await api.content(trackId);
  store.setState({ content, curves: await loadCurves(trackId, analysis.frames, analysis.hop_s) });
  transport.changed(trackId, [{ start_s: 0, end_s: analysis.duration_s }]);
}

/** Take the server's state of the open track when it is one of those that were edited as a whole. */
export async function refreshOpen(trackIds: string[]): Promise<void> {
  const { trackId, analysis } = store.getState();
  for (const id of trackIds) if (analysis) transport.changed(id, [{ start_s: 0, end_s: analysis.duration_s }]);
  if (trackId && trackIds.includes(trackId)) await refresh(trackId);
}

export function edit(operation: Record<string, unknown>): Promise<boolean> {
  return change((trackId, revision) => api.edit(trackId, revision, operation));
}

export function undo(): Promise<boolean> {
  return change(api.undo);
}

export function redo(): Promise<boolean> {
  return change(api.redo);
}

export function selectedNotes(): NoteOut[] {
  const { content, selection } = store.getState();
  return content?.notes.filter((note) => selection.has(note.id)) ?? [];
}

/** An edit on the selection; says so when nothing is selected. */
export function editSelection(operation: Record<string, unknown>): Promise<boolean> {
  const note_ids = selectedNotes().map((note) => note.id);
  if (note_ids.length === 0) {
    say("Select a note first: click one, or press → for the next.", "trouble");
    return Promise.resolve(false);
  }
  return edit({ ...operation, note_ids });
}

/** Set a shown value on the selection. */
export function setValue(spec: ValueSpec, shown: number): Promise<boolean> {
  return editSelection({ type: "set", values: { [spec.name]: shown / spec.scale } });
}

/** Change a shown value of every selected note by an amount. */
export function changeValueBy(spec: ValueSpec, amount: number): Promise<boolean> {
  return editSelection({ type: "nudge", values: { [spec.name]: amount / spec.scale } });
}

/** Bring a note into view without moving more than needed. */
export function reveal(note: NoteOut): void {
  const { view, analysis } = store.getState();
  if (!analysis) return;
  const next = { ...view };
  const length = view.end_s - view.start_s;
  if (note.start_s < view.start_s || note.end_s > view.end_s) {
    next.start_s = note.start_s - length * 0.2;
    next.end_s = next.start_s + length;
  }
  const span = view.high - view.low;
  if (note.centre_midi < view.low + 1 || note.centre_midi > view.high - 1) {
    next.low = note.centre_midi - span / 2;
    next.high = next.low + span;
  }
  store.setState({ view: clampView(next, analysis.duration_s) });
}

export function select(notes: NoteOut[], options: { add?: boolean } = {}): void {
  const { selection } = store.getState();
  const chosen = new Set(options.add ? selection : []);
  for (const note of notes) {
    if (options.add && selection.has(note.id)) chosen.delete(note.id);
    else chosen.add(note.id);
  }
  store.setState({ selection: chosen, airSelection: new Set() });
  if (notes.length === 1) reveal(notes[0]!);
}

/** Select the neighbour of the selection for which `wanted` holds; `step` is 1 or −1. */
export function selectNext(
  step: 1 | -1,
  wanted: (note: NoteOut, from: NoteOut | undefined) => boolean = () => true,
): void {
  const { content, cursor_s } = store.getState();
  if (!content) return;
  const chosen = selectedNotes();
  const from = step > 0 ? chosen.at(-1) : chosen[0];
  const at = from ? content.notes.findIndex((note) => note.id === from.id) : -1;
  const start = from ? at + step : content.notes.findIndex((note) => note.end_s > cursor_s);
  for (let i = Math.max(0, start); i >= 0 && i < content.notes.length; i += step) {
    const note = content.notes[i]!;
    if (from && i === at) continue;
    if (wanted(note, from)) return select([note]);
    if (start < 0) return;
  }
}

/** Leave the editor. */
export function closeTrack(): void {
  store.setState({ song: null, trackId: null, content: null, analysis: null, curves: null, selection: new Set() });
}
