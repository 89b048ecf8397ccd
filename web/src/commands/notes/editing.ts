/** Edits: every one goes to the server, which answers with what changed. */

import { api, type Base } from "../../api/client";
import { ApiError } from "../../api/errors";
import { unpacked, withPieces } from "../../document/track/curve_pieces";
import { withDelta } from "../../document/track/delta";
import type { Curves, EditedCurves, NoteOut, OnNotes, Operation } from "../../document/track/model";
import type { EditOut, SongOut } from "../../document/schema";
import { type EditorState, store, viewIn } from "../../document/track/store";
import { songToSource } from "../../document/time/times";
import { storedValue, type ValueSpec } from "../../document/track/values";
import { afterPaint } from "../../session/frame_scheduler";
import { bringIn, clampView, holdPitches } from "../../geometry/viewport";
import { afterChanges } from "../../session/changes";
import { editorSession, type EditorSession } from "../../session/editor_session";
import { applyListening, transport } from "../../listening/playing";
import { SELECTION, say } from "../../session/report";
import { withPitchesOf } from "../../session/view";

/** All curves at a step. */
export async function editedCurves(trackId: string, step: string, frames: number): Promise<EditedCurves> {
  return unpacked(frames > 0 ? await api.curves(trackId, step, frames) : new ArrayBuffer(0));
}

/** The same with how far frames are apart. */
export async function loadCurves(trackId: string, step: string, frames: number, hop_s: number): Promise<Curves> {
  return { ...(await editedCurves(trackId, step, frames)), hop_s };
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

async function take(answer: EditOut, session: EditorSession, base: Base): Promise<void> {
  const { version } = answer;
  session.movedOn({ version_id: version.id, base: version.head_id });
  if (!session.over) await transport.moved(answer.track_id, base.base, version.head_id, answer.changed); // heard, then drawn
  const { curves: before, content } = store.getState();
  if (session.over || !before || !content) return;
  const now = withDelta(content, answer, { step_id: version.head_id, version });
  const curves = { ...before, ...withPieces(before, answer.curves) };
  if (!answer.times) {
    store.setState({ ahead: { content: now, curves } }); // drawn, then told: panels take as long as a frame
    await afterPaint();
    if (editorSession() !== session) return;
  }
  const { versions, stepsTurn, song } = store.getState();
  store.setState({
    ahead: null,
    content: now,
    curves,
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
}

/** Change the track of a session now, on the step that the change before it left. */
async function changeNow(
  session: EditorSession,
  send: (trackId: string, base: Base) => Promise<EditOut>,
): Promise<void> {
  const { standing } = session;
  if (!standing) return;
  const { trackId, base } = standing;
  try {
    await take(await send(trackId, base), session, base);
  } catch (error) {
    if (!session.over && error instanceof ApiError && error.status === 409) await refresh(trackId);
    throw error;
  }
}

/** A change of the open track after all that were asked for; also when the track has been left meanwhile. */
function change(send: (trackId: string, base: Base) => Promise<EditOut>, again?: () => void): Promise<boolean> {
  const session = editorSession();
  return afterChanges(() => changeNow(session, send), again);
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

/** Edit the open track; an operation that depends on how things stand is asked for at its turn. */
export function edit(operation: Operation | (() => Operation)): Promise<boolean> {
  return change(
    (trackId, base) => api.edit(trackId, base, typeof operation === "function" ? operation() : operation),
    () => void edit(operation),
  );
}

/** Take back the last step of a session's track, at the turn of whoever asks. */
export function undoNow(session: EditorSession): Promise<void> {
  return changeNow(session, api.undo);
}

export function redoNow(session: EditorSession): Promise<void> {
  return changeNow(session, api.redo);
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

/** An edit on the selection, or what its notes make of it when its turn comes; says so when nothing is selected. */
export function editSelection(operation: OnNotes | ((chosen: NoteOut[]) => OnNotes)): Promise<boolean> {
  const { selection } = store.getState();
  const note_ids = selectedNotes().map((note) => note.id);
  if (note_ids.length === 0) {
    say("Select a note first: click one, or press → for the next.", "trouble", SELECTION);
    return Promise.resolve(false);
  }
  if (typeof operation !== "function") return edit({ ...operation, note_ids });
  return edit(() => ({ ...operation(notesIn({ content: store.getState().content, selection })), note_ids }));
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
  const there = bringIn(view, note.start_s, note.end_s);
  const next = there === view ? holdPitches(view, [note.centre_midi]) : withPitchesOf(there);
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
