/** Opening a track, and edits: every one goes to the server, which answers with what changed. */

import { api, type At, type Base } from "../../api/client";
import { ApiError } from "../../api/errors";
import { fewRanges, withDelta } from "../../document/track/delta";
import type { Curves, EditedCurves, NoteOut, OnNotes, Operation } from "../../document/track/model";
import type { EditOut, SongOut } from "../../document/schema";
import { type EditorState, NEWLY_OPENED, store, viewIn } from "../../document/track/store";
import { songToSource, timesOf } from "../../document/time/times";
import { storedValue, type ValueSpec } from "../../document/track/values";
import { vocalsOf } from "../../document/track/vocals";
import { bringIn, clampView, fitStretch } from "../../geometry/viewport";
import { restoreView } from "../../session/address";
import { afterChanges } from "../../session/changes";
import { loadOffers } from "../song/offers";
import { applyListening, transport } from "../../listening/playing";
import { SELECTION, report, say } from "../../session/report";

const MOST_RANGES = 4;

/** A stretch of the curves that edits change. */
interface CurvePiece extends EditedCurves {
  first: number;
}

const BYTES_A_FRAME = 23;

/** Curves as the server sends them: five of floats, then confidence, then the outline. */
function unpacked(answer: ArrayBuffer): EditedCurves {
  const n = answer.byteLength / BYTES_A_FRAME;
  const floats = (i: number): Float32Array => new Float32Array(answer, 4 * n * i, n);
  return {
    tuned: floats(0),
    levelChange: floats(1),
    sung: floats(2),
    glaze: floats(3),
    level: floats(4),
    confidence: new Uint8Array(answer, 20 * n, n),
    waveform: new Int8Array(answer, 21 * n, 2 * n),
  };
}

/** The curves of frame ranges at a moment. */
export async function loadPieces(
  trackId: string,
  at: At,
  ranges: readonly { first: number; last: number }[],
): Promise<CurvePiece[]> {
  return Promise.all(
    fewRanges(ranges, MOST_RANGES).map(async ([first, last]) => ({
      first,
      ...unpacked(await api.curves(trackId, at, first, last)),
    })),
  );
}

/** Copies of curves with pieces laid in; an array that is on screen is never written to. */
export function withPieces(curves: EditedCurves, pieces: readonly CurvePiece[]): EditedCurves {
  function laid<T extends { slice: () => T; set: (part: T, at: number) => void }>(
    part: (of: EditedCurves) => T,
    each = 1,
  ): T {
    const whole = part(curves).slice();
    for (const piece of pieces) whole.set(part(piece), each * piece.first);
    return whole;
  }
  return {
    tuned: laid((of) => of.tuned),
    levelChange: laid((of) => of.levelChange),
    sung: laid((of) => of.sung),
    glaze: laid((of) => of.glaze),
    level: laid((of) => of.level),
    confidence: laid((of) => of.confidence),
    waveform: laid((of) => of.waveform, 2),
  };
}

/** All curves at a moment. */
export async function editedCurves(trackId: string, at: At, frames: number): Promise<EditedCurves> {
  return unpacked(frames > 0 ? await api.curves(trackId, at, 0, frames) : new ArrayBuffer(0));
}

async function loadCurves(trackId: string, step: string, frames: number, hop_s: number): Promise<Curves> {
  return { ...(await editedCurves(trackId, { step }, frames)), hop_s };
}

let opening = 0;

/** Open a track in the editor; without one, the first vocal that is ready.  The last one asked for is the one shown. */
export async function openTrack(songId: string, trackId: string | null, query: URLSearchParams): Promise<void> {
  const mine = ++opening;
  await report(async () => {
    const song = await api.song(songId);
    const vocals = vocalsOf(song);
    const track = vocals.find((candidate) => candidate.id === trackId) ?? vocals[0];
    if (!track) throw new ApiError("This song has no vocal that is ready yet. Bring one in first.", 404);
    const [content, analysis, versions] = await Promise.all([
      api.content(track.id),
      api.analysis(track.id),
      api.versions(track.id),
    ]);
    const curves = await loadCurves(track.id, content.step_id, analysis.frames, analysis.hop_s);
    if (mine !== opening) return;
    const view = { ...store.getState().view, times: timesOf(track, content.times) };
    // In one go: nothing of another track is asked of this one.
    store.setState({
      ...NEWLY_OPENED,
      song,
      trackId: track.id,
      content,
      analysis,
      curves,
      view,
      versions: versions.versions,
      removedVersions: versions.removed,
      stepsTurn: store.getState().stepsTurn + 1,
    });
    applyListening(); // what plays goes on with this track
    if (!restoreView(query)) showPhrase(content.notes[0]?.phrase ?? 0);
    history.replaceState(null, "", `#/song/${song.id}/track/${track.id}?${query.toString()}`);
    loadOffers(song, track.id);
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

/** Keep of the selections what is still there. */
function keepSelections(isThere: (id: string) => boolean): void {
  const { selection, airSelection } = store.getState();
  const left = (chosen: ReadonlySet<string>): Set<string> => new Set([...chosen].filter(isThere));
  store.setState({ selection: left(selection), airSelection: left(airSelection) });
}

/** Take the tracks of the song as they stand now; what plays follows. */
export async function refreshSong(): Promise<void> {
  const { song } = store.getState();
  if (!song) return;
  const now = await api.song(song.id);
  if (store.getState().song?.id !== song.id) return;
  store.setState({ song: now });
  applyListening();
}

/** The song with a track where its version stands now, if that is the one that the stack has. */
function withHead(song: SongOut, { track_id, version }: EditOut): SongOut {
  const tracks = song.tracks.map((track) =>
    track.id === track_id && version.id === (track.heard_version ?? track.version_id)
      ? { ...track, head_id: version.head_id }
      : track,
  );
  return { ...song, tracks };
}

async function take(answer: EditOut): Promise<void> {
  const before = store.getState().content;
  const { version } = answer;
  if (before?.track_id === answer.track_id) {
    await transport.moved(answer.track_id, before.step_id, version.head_id, answer.changed); // heard, then drawn
  }
  const { curves, content, versions, stepsTurn, song } = store.getState();
  if (!curves || content?.track_id !== answer.track_id) return;
  const now = withDelta(content, answer, { step_id: version.head_id, version });
  store.setState({
    content: now,
    song: song && withHead(song, answer),
    ...(answer.times ? { view: viewIn(now) } : {}),
    versions: versions.map((known) => (known.id === version.id ? version : known)),
    stepsTurn: stepsTurn + 1,
  });
  if (answer.gone.length > 0) {
    const gone = new Set(answer.gone);
    keepSelections((id) => !gone.has(id));
  }
  if (answer.others.length > 0) await refreshSong();
  if (answer.curves.length === 0) return;
  const pieces = await loadPieces(answer.track_id, { step: version.head_id }, answer.curves);
  const { content: later, curves: shown } = store.getState();
  if (shown && later?.track_id === answer.track_id)
    store.setState({ curves: { ...shown, ...withPieces(shown, pieces) } });
}

/** A change of the open track, on the step that the one before it left. */
function change(send: (trackId: string, base: Base) => Promise<EditOut>): Promise<boolean> {
  return afterChanges(async () => {
    const { content } = store.getState();
    if (!content) return;
    try {
      await take(await send(content.track_id, { version_id: content.version.id, base: content.step_id }));
    } catch (error) {
      if (error instanceof ApiError && error.status === 409) await refresh(content.track_id);
      throw error;
    }
  });
}

/** Bring the open track level with what a link of it leads to. */
export function catchUp(linkId: string): Promise<boolean> {
  return change((id, base) => api.catchUp(id, base, linkId));
}

/** Take the server's state of a track, after a stale edit or another version was opened. */
export async function refresh(trackId: string): Promise<void> {
  const { analysis, content: before } = store.getState();
  if (!analysis) return;
  const [content, versions] = await Promise.all([api.content(trackId), api.versions(trackId)]);
  const curves = await loadCurves(trackId, content.step_id, analysis.frames, analysis.hop_s);
  if (store.getState().trackId !== trackId) return;
  const known = new Set([...content.notes, ...content.air].map((item) => item.id));
  store.setState({
    content,
    curves,
    view: viewIn(content),
    versions: versions.versions,
    removedVersions: versions.removed,
    stepsTurn: store.getState().stepsTurn + 1,
  });
  keepSelections((id) => known.has(id));
  const whole = [{ start_s: 0, end_s: analysis.duration_s }];
  if (before) void transport.moved(trackId, before.step_id, content.step_id, whole);
}

/** Take the server's state of the open track when it is one of those that were edited as a whole. */
export async function refreshOpen(trackIds: string[]): Promise<void> {
  const { trackId } = store.getState();
  if (trackId && trackIds.includes(trackId)) await refresh(trackId);
}

export function edit(operation: Operation): Promise<boolean> {
  return change((trackId, base) => api.edit(trackId, base, operation));
}

export function undo(): Promise<boolean> {
  return change(api.undo);
}

export function redo(): Promise<boolean> {
  return change(api.redo);
}

/** Go to any step of the track's history. */
export function jumpTo(step: string): Promise<boolean> {
  return change((trackId, base) => api.jump(trackId, base, step));
}

/** The notes that are selected in a state. */
export function notesIn({ content, selection }: Pick<EditorState, "content" | "selection">): NoteOut[] {
  return content?.notes.filter((note) => selection.has(note.id)) ?? [];
}

export function selectedNotes(): NoteOut[] {
  return notesIn(store.getState());
}

/** An edit on the selection; says so when nothing is selected. */
export function editSelection(operation: OnNotes): Promise<boolean> {
  const note_ids = selectedNotes().map((note) => note.id);
  if (note_ids.length === 0) {
    say("Select a note first: click one, or press → for the next.", "trouble", SELECTION);
    return Promise.resolve(false);
  }
  return edit({ ...operation, note_ids });
}

/** Set a shown value on the selection. */
export function setValue(spec: ValueSpec, shown: number): Promise<boolean> {
  return editSelection({ type: "set", values: { [spec.name]: storedValue(shown, spec) } });
}

/** The edit that changes a shown value of notes by an amount. */
export function changeBy(spec: ValueSpec, amount: number): OnNotes {
  return { type: "nudge", values: { [spec.name]: amount / spec.scale } };
}

/** Change a shown value of every selected note by an amount. */
export function changeValueBy(spec: ValueSpec, amount: number): Promise<boolean> {
  return editSelection(changeBy(spec, amount));
}

/** Bring a note into view without moving more than needed. */
export function reveal(note: NoteOut): void {
  const { view, analysis } = store.getState();
  if (!analysis) return;
  const next = { ...bringIn(view, note.start_s, note.end_s) };
  const span = view.high - view.low;
  if (note.centre_midi < view.low + 1 || note.centre_midi > view.high - 1) {
    next.low = note.centre_midi - span / 2;
    next.high = next.low + span;
  }
  store.setState({ view: clampView(next, analysis.duration_s) });
}

/** Select a note by its id, or bring its place into view when the open version has no such note. */
export function revealNote(id: string, start_s: number, end_s: number): void {
  const { content, view, analysis } = store.getState();
  const note = content?.notes.find((candidate) => candidate.id === id);
  if (note) return select([note]);
  if (analysis) store.setState({ view: clampView(bringIn(view, start_s, end_s), analysis.duration_s) });
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

/** Select one note by its id, or none. */
export function selectById(id: string | undefined): void {
  select(store.getState().content?.notes.filter((note) => note.id === id) ?? []);
}

/** Select the neighbour of the selection for which `wanted` holds; `step` is 1 or −1. */
export function selectNext(
  step: 1 | -1,
  wanted: (note: NoteOut, from: NoteOut | undefined) => boolean = () => true,
): void {
  const { content, cursor_s, view } = store.getState();
  if (!content) return;
  const chosen = selectedNotes();
  const from = step > 0 ? chosen.at(-1) : chosen[0];
  const at = from ? content.notes.findIndex((note) => note.id === from.id) : -1;
  const start = from ? at + step : content.notes.findIndex((note) => note.end_s > songToSource(cursor_s, view.times));
  for (let i = Math.max(0, start); i >= 0 && i < content.notes.length; i += step) {
    const note = content.notes[i]!;
    if (from && i === at) continue;
    if (wanted(note, from)) return select([note]);
    if (start < 0) return;
  }
}

/** Leave the editor. */
export function closeTrack(): void {
  opening += 1;
  store.setState({
    song: null,
    trackId: null,
    content: null,
    analysis: null,
    curves: null,
    ghost: null,
    versions: [],
    selection: new Set(),
  });
}
