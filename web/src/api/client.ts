/** Requests to the server. */

import type { Content, Operation } from "../document/track/model";
import type {
  AlignmentIn,
  AlignmentOut,
  DeriveIn,
  DerivedOut,
  AlikeOut,
  CandidatesOut,
  ChordsOut,
  AnalysisOut,
  BroughtOut,
  CaughtUpOut,
  CompIn,
  CompOut,
  CompsOut,
  CompareOut,
  CutsOut,
  EditOut,
  GlazePresetsOut,
  HandoffFoldersOut,
  HandoffIn,
  HandoffOut,
  ImportOut,
  InSmallOut,
  KeyChangeOut,
  KeysIn,
  KeysOut,
  LoudnessesOut,
  OffersIn,
  OffersOut,
  MelodyMatchIn,
  MelodyMatchOut,
  MelodyOut,
  MidiTempoOut,
  PreviewOut,
  PrintIn,
  PrintListOut,
  PrintsIn,
  PrintSummaryOut,
  PrintTasksOut,
  ProgressOut,
  SingerNotesOut,
  ScalaOut,
  ScalesOut,
  SongChangeIn,
  RemovedOut,
  SignedInOut,
  SongMovedOut,
  SongOut,
  SongsOut,
  SongStepsOut,
  SayIn,
  SungBetterOut,
  SyllablesOut,
  WordsOut,
  SplitOut,
  SweptOut,
  StackEditOut,
  StepsOut,
  TaskOut,
  TempoEstimateOut,
  TimeRoomIn,
  TimeRoomOut,
  TrackChangeIn,
  TrackOut,
  TunePassesOut,
  TuningSheetOut,
  TriedVoicesOut,
  TryVoicesIn,
  TunePassIn,
  TypedChordsOut,
  TypedMelodyOut,
  VersionChangeIn,
  VersionIn,
  VersionOut,
  VersionsOut,
} from "../document/schema";
import { ApiError } from "./errors";

const PREFIX = "/api/v1";
const STEPS_AT_ONCE = 60;

/** What the page is told when the server wants a code first. */
export const SIGNED_OUT = "signed-out";

async function request(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(PREFIX + path, init);
  } catch (error) {
    if (init?.signal?.aborted) throw error; // nobody waits for it any more
    throw new ApiError("The program does not answer. Is it still running? Nothing you did before is lost.", 0);
  }
  if (!response.ok) {
    if (response.status === 401) window.dispatchEvent(new Event(SIGNED_OUT));
    const body = (await response.json().catch(() => ({}))) as { message?: string; reason?: string };
    throw new ApiError(body.message ?? `The request failed (${response.status}).`, response.status, body.reason);
  }
  return response;
}

async function json<T>(path: string, method = "GET", body?: unknown, signal?: AbortSignal): Promise<T> {
  const init: RequestInit = { method, ...(signal && { signal }) };
  if (body !== undefined) {
    init.headers = { "Content-Type": "application/json" };
    init.body = JSON.stringify(body);
  }
  const response = await request(path, init);
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T);
}

async function bytes(path: string): Promise<ArrayBuffer> {
  return (await request(path)).arrayBuffer();
}

/** A query string of the values that are there. */
function query(values: Record<string, string | number | null | undefined>): string {
  const given = Object.entries(values).filter(([, value]) => value !== null && value !== undefined);
  return given.length ? `?${new URLSearchParams(given.map(([name, value]) => [name, String(value)])).toString()}` : "";
}

/** Send a file and read what it was taken for. */
async function sent<T>(path: string, file: Blob): Promise<T> {
  const form = new FormData();
  form.append("file", file);
  return (await (await request(path, { method: "POST", body: form })).json()) as T;
}

/** The version an edit is for and the step it is made on. */
export interface Base {
  version_id: string;
  base: string;
}

/** A moment of a track to read: a step, or what is tried out. */
export type At = { step: string } | { preview: string };

const post = <T>(path: string, body?: unknown, signal?: AbortSignal): Promise<T> => json<T>(path, "POST", body, signal);

export const api = {
  signedIn: () => json<SignedInOut>("/sign-in"),
  signIn: (code: string) => post<SignedInOut>("/sign-in", { code }),
  signOut: () => json<undefined>("/sign-in", "DELETE"),
  songs: () => json<SongsOut>("/songs"),
  song: (id: string) => json<SongOut>(`/songs/${id}`),
  createSong: (title: string) => post<SongOut>("/songs", { title }),
  packed: async (id: string) => (await request(`/songs/${id}/archive`)).blob(),
  unpack: (file: File) => sent<SongOut>("/archives", file),
  changeSong: (id: string, values: SongChangeIn) => json<SongOut>(`/songs/${id}`, "PATCH", values),
  removeSong: (id: string) => json<undefined>(`/songs/${id}`, "DELETE"),
  syllables: (id: string, step: string | null) => json<SyllablesOut>(`/tracks/${id}/syllables${query({ step })}`),
  saySyllables: (id: string, said: Partial<SayIn>) => post<SyllablesOut>(`/tracks/${id}/syllables`, said),
  lyrics: (id: string, file: Blob) => sent<WordsOut>(`/tracks/${id}/lyrics`, file),
  sungBetter: (id: string) => json<SungBetterOut>(`/tracks/${id}/sung-better`),
  midiChords: (id: string, file: File) => sent<TypedChordsOut>(`/songs/${id}/midi-chords`, file),
  chords: (id: string) => json<ChordsOut>(`/songs/${id}/chords`),
  keyPreview: (id: string, keys: KeysIn) => post<KeyChangeOut>(`/songs/${id}/key-preview`, keys),
  changeTrack: (id: string, values: TrackChangeIn) => json<TrackOut>(`/tracks/${id}`, "PATCH", values),
  removeTrack: (id: string) => json<undefined>(`/tracks/${id}`, "DELETE"),
  keys: (id: string) => json<KeysOut>(`/tracks/${id}/keys`),
  analysis: (id: string) => json<AnalysisOut>(`/tracks/${id}/analysis`),
  content: (id: string, version: string | null = null) => json<Content>(`/tracks/${id}/content${query({ version })}`),
  edit: (id: string, base: Base, operation: Operation) => post<EditOut>(`/tracks/${id}/edits`, { ...base, operation }),
  undo: (id: string, base: Base) => post<EditOut>(`/tracks/${id}/undo`, base),
  redo: (id: string, base: Base) => post<EditOut>(`/tracks/${id}/redo`, base),
  jump: (id: string, base: Base, to: string) => post<EditOut>(`/tracks/${id}/jump`, { ...base, to }),
  versions: (id: string) => json<VersionsOut>(`/tracks/${id}/versions`),
  makeVersion: (id: string, wanted: VersionIn) => post<VersionOut>(`/tracks/${id}/versions`, wanted),
  changeVersion: (id: string, version: string, wanted: VersionChangeIn) =>
    json<VersionOut>(`/tracks/${id}/versions/${version}`, "PATCH", wanted),
  removeVersion: (id: string, version: string) => json<VersionOut>(`/tracks/${id}/versions/${version}`, "DELETE"),
  restoreVersion: (id: string, version: string) => post<VersionOut>(`/tracks/${id}/versions/${version}/restore`),
  openVersion: (id: string, version: string) => post<VersionOut>(`/tracks/${id}/versions/${version}/open`),
  comps: (id: string) => json<CompsOut>(`/tracks/${id}/comps`),
  makeComp: (id: string, wanted: CompIn) => post<VersionOut>(`/tracks/${id}/comps`, wanted),
  comp: (id: string, comp: string) => json<CompOut>(`/tracks/${id}/comps/${comp}`),
  versionFromComp: (id: string, comp: string, name: string) =>
    post<VersionOut>(`/tracks/${id}/comps/${comp}/version`, { name }),
  steps: (id: string, version: string, before: number | null) =>
    json<StepsOut>(`/tracks/${id}/steps${query({ version, before, limit: STEPS_AT_ONCE })}`),
  compare: (id: string, first: string, second: string) =>
    json<CompareOut>(`/tracks/${id}/compare${query({ first, second })}`),
  curves: (id: string, step: string, frames: number) =>
    bytes(`/tracks/${id}/curves${query({ step, first: 0, last: frames })}`),
  derive: (id: string, wanted: DeriveIn) => post<DerivedOut>(`/tracks/${id}/derived`, wanted),
  followersCatchUp: (id: string) => post<CaughtUpOut>(`/tracks/${id}/followers/catch-up`),
  alignment: (id: string, wanted: AlignmentIn, signal: AbortSignal) =>
    post<AlignmentOut>(`/tracks/${id}/alignment`, wanted, signal),
  borrowOffers: (id: string, wanted: OffersIn) => post<OffersOut>(`/tracks/${id}/borrow-offers`, wanted),
  preview: (id: string, step: string, operation: Operation, signal: AbortSignal) =>
    post<PreviewOut>(`/tracks/${id}/preview`, { step, operation }, signal),
  tryVoices: (id: string, wanted: TryVoicesIn, signal: AbortSignal) =>
    post<TriedVoicesOut>(`/tracks/${id}/derived-preview`, wanted, signal),
  timeRoom: (id: string, step: string, wanted: Omit<TimeRoomIn, "step">) =>
    post<TimeRoomOut>(`/tracks/${id}/time-room`, { step, ...wanted }),
  splitProposal: (
    id: string,
    asked: { step: string; note_id: string; at_s: number; exact: boolean },
    signal: AbortSignal,
  ) =>
    json<SplitOut>(
      `/tracks/${id}/split-proposal${query({ ...asked, exact: String(asked.exact) })}`,
      "GET",
      undefined,
      signal,
    ),
  candidates: (id: string, step: string, noteId: string) =>
    json<CandidatesOut>(`/tracks/${id}/notes/${noteId}/candidates${query({ step })}`),
  alike: (id: string, step: string, phrase: number) =>
    json<AlikeOut>(`/tracks/${id}/phrases/${phrase}/alike${query({ step })}`),
  tunePasses: () => json<TunePassesOut>("/tune-passes"),
  glazePresets: () => json<GlazePresetsOut>("/glaze-presets"),
  saveTunePass: (wanted: TunePassIn) => post<TunePassesOut>("/tune-passes", wanted),
  spectrum: (id: string) => bytes(`/tracks/${id}/spectrum`),
  loudness: (id: string, step: string, begin_s: number, end_s: number | null) =>
    json<LoudnessesOut>(`/tracks/${id}/loudness${query({ step, begin_s, end_s })}`),
  editTracks: (songId: string, operation: Operation, tracks: string[]) =>
    post<StackEditOut>(`/songs/${songId}/edits`, { operation, tracks }),
  songSteps: (songId: string) => json<SongStepsOut>(`/songs/${songId}/steps`),
  undoSong: (songId: string) => post<SongMovedOut>(`/songs/${songId}/undo`),
  redoSong: (songId: string) => post<SongMovedOut>(`/songs/${songId}/redo`),
  newsUrl: (songId: string) => `${PREFIX}/songs/${songId}/news`,
  removed: () => json<RemovedOut>("/removed"),
  sweepRemoved: () => json<SweptOut>("/removed", "DELETE"),
  restoreSong: (id: string) => post<undefined>(`/songs/${id}/restore`),
  restoreTrack: (id: string) => post<undefined>(`/tracks/${id}/restore`),
  inSmall: (id: string, step: string | null) => json<InSmallOut>(`/tracks/${id}/in-small${query({ step })}`),
  orderTracks: (songId: string, tracks: string[]) => json<SongOut>(`/songs/${songId}/order`, "PUT", { tracks }),
  cuts: (id: string, step: string) => json<CutsOut>(`/tracks/${id}/cuts${query({ step })}`),
  outline: (id: string, columns: number) => bytes(`/tracks/${id}/outline${query({ columns })}`),
  progress: (id: string) => json<ProgressOut>(`/tracks/${id}/progress`),
  audio: (id: string, kind: string, at: At | null, begin: number, end: number, ahead: boolean) =>
    bytes(`/tracks/${id}/audio${query({ kind, ...at, begin, end, ahead: ahead ? "true" : null })}`),
  printSummary: (id: string, step: string) => json<PrintSummaryOut>(`/tracks/${id}/print-summary${query({ step })}`),
  print: (id: string, wanted: PrintIn) => post<TaskOut>(`/tracks/${id}/prints`, wanted),
  printAll: (songId: string, wanted: PrintsIn) => post<PrintTasksOut>(`/songs/${songId}/prints`, wanted),
  prints: (songId: string) => json<PrintListOut>(`/songs/${songId}/prints`),
  handOverAgain: (id: string) => post<undefined>(`/prints/${id}/hand-over`),
  removePrint: (id: string) => json<undefined>(`/prints/${id}`, "DELETE"),
  tuningSheet: (id: string, version: string, against: string | null) =>
    json<TuningSheetOut>(`/tracks/${id}/tuning-sheet${query({ version, against })}`),
  tuningSheetUrl: (id: string, kind: string, version: string, against: string | null) =>
    `${PREFIX}/tracks/${id}/tuning-sheet.${kind}${query({ version, against })}`,
  otherFileUrl: (id: string, kind: string, step: string, bend: number) =>
    `${PREFIX}/tracks/${id}/${kind}${query({ step, bend: bend || null })}`,
  singerNotes: (id: string, scope: string) => json<SingerNotesOut>(`/tracks/${id}/singer-notes${query({ scope })}`),
  singerNotesUrl: (id: string, scope: string) => `${PREFIX}/tracks/${id}/singer-notes.csv${query({ scope })}`,
  handoffFolders: () => json<HandoffFoldersOut>("/handoff-folders"),
  handoff: (songId: string) => json<HandoffOut>(`/songs/${songId}/handoff`),
  linkHandoff: (songId: string, wanted: HandoffIn) => json<HandoffOut>(`/songs/${songId}/handoff`, "PUT", wanted),
  bringIn: (songId: string, files: string[]) => post<BroughtOut>(`/songs/${songId}/handoff/bring`, { files }),
  handoffTempo: (songId: string, file: string) => post<SongOut>(`/songs/${songId}/handoff/tempo`, { file }),
  printUrl: (taskId: string) => `${PREFIX}/prints/${taskId}/file`,
  task: (id: string) => json<TaskOut>(`/tasks/${id}`),
  cancelTask: (id: string) => post<TaskOut>(`/tasks/${id}/cancel`),
  forgetTask: (id: string) => json<undefined>(`/tasks/${id}`, "DELETE"),
  tempo: (songId: string) => json<TempoEstimateOut>(`/songs/${songId}/tempo`),
  midiTempo: (file: File) => sent<MidiTempoOut>("/midi-tempo", file),
  typedMelody: (songId: string, text: string) => post<TypedMelodyOut>(`/songs/${songId}/typed-melody`, { text }),
  melodyMatch: (id: string, wanted: MelodyMatchIn) => post<MelodyMatchOut>(`/tracks/${id}/melody-match`, wanted),
  midiNotes: (songId: string, file: File) => sent<MelodyOut>(`/songs/${songId}/midi-notes`, file),
  scales: () => json<ScalesOut>("/scales"),
  readScale: (file: File) => sent<ScalaOut>("/scala-scale", file),
  readMapping: (file: File) => sent<ScalaOut>("/scala-mapping", file),
  async importFile(songId: string, file: File, role: string | null, asFar: boolean): Promise<ImportOut> {
    const form = new FormData();
    form.append("file", file);
    if (role !== null) form.append("role", role);
    form.append("as_far", String(asFar));
    const response = await request(`/songs/${songId}/tracks`, { method: "POST", body: form });
    return (await response.json()) as ImportOut;
  },
};
