/** Requests to the server. */

import type { Listening } from "../document/model";
import type {
  AlikeOut,
  AnalysisOut,
  DocumentOut,
  ImportOut,
  LoudnessesOut,
  PreviewOut,
  PrintIn,
  PrintSummaryOut,
  SongChangeIn,
  SongOut,
  SongsOut,
  SplitOut,
  StackBreathsIn,
  StackBreathsOut,
  TaskOut,
  TrackChangeIn,
  TrackOut,
  TunePassesOut,
  TunePassIn,
} from "../document/schema";
import { ApiError } from "./errors";

const PREFIX = "/api/v1";

async function request(path: string, init?: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(PREFIX + path, init);
  } catch {
    throw new ApiError("The program does not answer. Is it still running? Nothing you did before is lost.", 0);
  }
  if (!response.ok) {
    const body = (await response.json().catch(() => ({}))) as { message?: string };
    throw new ApiError(body.message ?? `The request failed (${response.status}).`, response.status);
  }
  return response;
}

async function json<T>(path: string, method = "GET", body?: unknown): Promise<T> {
  const init: RequestInit = { method };
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

export const api = {
  songs: () => json<SongsOut>("/songs"),
  song: (id: string) => json<SongOut>(`/songs/${id}`),
  createSong: (title: string) => json<SongOut>("/songs", "POST", { title }),
  changeSong: (id: string, values: SongChangeIn) => json<SongOut>(`/songs/${id}`, "PATCH", values),
  removeSong: (id: string) => json<undefined>(`/songs/${id}`, "DELETE"),
  changeTrack: (id: string, values: TrackChangeIn) => json<TrackOut>(`/tracks/${id}`, "PATCH", values),
  removeTrack: (id: string) => json<undefined>(`/tracks/${id}`, "DELETE"),
  analysis: (id: string) => json<AnalysisOut>(`/tracks/${id}/analysis`),
  content: (id: string) => json<DocumentOut>(`/tracks/${id}/document`),
  edit: (id: string, base_revision: number, operation: Record<string, unknown>) =>
    json<DocumentOut>(`/tracks/${id}/edits`, "POST", { base_revision, operation }),
  undo: (id: string, base_revision: number) => json<DocumentOut>(`/tracks/${id}/undo`, "POST", { base_revision }),
  redo: (id: string, base_revision: number) => json<DocumentOut>(`/tracks/${id}/redo`, "POST", { base_revision }),
  curve: (id: string) => bytes(`/tracks/${id}/curve`),
  tunedCurve: (id: string, preview = false) => bytes(`/tracks/${id}/tuned-curve?preview=${preview}`),
  preview: (id: string, operation: Record<string, unknown>) =>
    json<PreviewOut>(`/tracks/${id}/preview`, "POST", { operation }),
  splitProposal: (id: string, noteId: string, at_s: number, exact: boolean) =>
    json<SplitOut>(`/tracks/${id}/split-proposal?note_id=${noteId}&at_s=${at_s}&exact=${exact}`),
  alike: (id: string, phrase: number) => json<AlikeOut>(`/tracks/${id}/phrases/${phrase}/alike`),
  tunePasses: () => json<TunePassesOut>("/tune-passes"),
  saveTunePass: (wanted: TunePassIn) => json<TunePassesOut>("/tune-passes", "POST", wanted),
  spectrum: (id: string) => bytes(`/tracks/${id}/spectrum`),
  loudness: (id: string, begin_s: number, end_s: number | null) =>
    json<LoudnessesOut>(`/tracks/${id}/loudness?begin_s=${begin_s}${end_s === null ? "" : `&end_s=${end_s}`}`),
  stackBreaths: (songId: string, wanted: StackBreathsIn) =>
    json<StackBreathsOut>(`/songs/${songId}/stack-breaths`, "POST", wanted),
  waveform: (id: string) => bytes(`/tracks/${id}/waveform`),
  audio: (id: string, kind: Listening, begin: number, end: number, step: number | null) =>
    bytes(`/tracks/${id}/audio?kind=${kind}&begin=${begin}&end=${end}${step === null ? "" : `&step=${step}`}`),
  printSummary: (id: string) => json<PrintSummaryOut>(`/tracks/${id}/print-summary`),
  print: (id: string, wanted: PrintIn) => json<TaskOut>(`/tracks/${id}/prints`, "POST", wanted),
  printUrl: (taskId: string) => `${PREFIX}/prints/${taskId}/file`,
  task: (id: string) => json<TaskOut>(`/tasks/${id}`),
  cancelTask: (id: string) => json<TaskOut>(`/tasks/${id}/cancel`, "POST"),
  forgetTask: (id: string) => json<undefined>(`/tasks/${id}`, "DELETE"),
  async importFile(songId: string, file: File, role: string): Promise<ImportOut> {
    const form = new FormData();
    form.append("file", file);
    form.append("role", role);
    const response = await request(`/songs/${songId}/tracks`, { method: "POST", body: form });
    return (await response.json()) as ImportOut;
  },
};
