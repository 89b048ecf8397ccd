/** The report of the open track. */

import { api } from "../api/client";
import type { PlaceOut, SingerNotesOut, TuningSheetOut } from "../document/schema";
import { store } from "../document/track/store";
import { goTo } from "../session/address";
import { showPanel } from "./panels";
import { listenTo, play } from "../listening/playing";
import { report } from "../session/report";
import { centreViewOn } from "../session/view";

export async function loadTuningSheet(version: string, against: string | null): Promise<TuningSheetOut | null> {
  let sheet: TuningSheetOut | null = null;
  await report(async () => {
    const { trackId } = store.getState();
    if (trackId) sheet = await api.tuningSheet(trackId, version, against);
  });
  return sheet;
}

/** Make the comps of the open track known, so that they can be chosen. */
export async function listComps(): Promise<void> {
  await report(async () => {
    const { trackId } = store.getState();
    if (!trackId) return;
    const { comps, removed } = await api.comps(trackId);
    if (store.getState().trackId === trackId) store.setState({ comps, removedComps: removed });
  });
}

export function sheetUrl(trackId: string, kind: "csv" | "json", version: string, against: string | null): string {
  return api.tuningSheetUrl(trackId, kind, version, against);
}

/** How much of a step's print would be the recording's own samples, in place or moved; null when it cannot be said. */
export async function loadUntouched(step: string): Promise<number | null> {
  const { trackId } = store.getState();
  if (!trackId) return null;
  const summary = await api.printSummary(trackId, step).catch(() => null);
  return summary && summary.untouched_share + summary.moved_share;
}

export function printPage(): void {
  window.print();
}

/** Show a moment of the song on the sheet. */
export function showPlace(song_s: number): void {
  store.setState({ cursor_s: song_s });
  centreViewOn(song_s);
  showPanel("sheet");
}

/** What is claimed of the singer of the open track; null when it cannot be said. */
export async function loadSingerNotes(scope: string): Promise<SingerNotesOut | null> {
  let notes: SingerNotesOut | null = null;
  await report(async () => {
    const { trackId } = store.getState();
    if (trackId) notes = await api.singerNotes(trackId, scope);
  }, "Singer notes");
  return notes;
}

export function singerNotesUrl(trackId: string, scope: string): string {
  return api.singerNotesUrl(trackId, scope);
}

const BEFORE_S = 0.5;
const AFTER_S = 0.3;

/** Hear a place of the open track as sung or tuned; a place of another track is opened. */
export function hearPlace(place: PlaceOut, as: "sung" | "tuned"): void {
  const { trackId, songs, song } = store.getState();
  if (place.track_id === trackId) {
    listenTo(as);
    void play(Math.max(0, place.start_s - BEFORE_S), place.end_s + AFTER_S);
    return;
  }
  const home = [...(song ? [song] : []), ...(songs ?? [])].find((one) =>
    one.tracks.some((track) => track.id === place.track_id),
  );
  if (home) goTo(`/song/${home.id}/track/${place.track_id}?panel=report`);
}
