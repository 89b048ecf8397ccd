/** The report of the open track. */

import { api } from "../api/client";
import type { TuningSheetOut } from "../document/schema";
import { store } from "../document/store";
import { showPanel } from "./comps";
import { report } from "./report";
import { centreViewOn } from "./view";

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

export function sheetUrl(kind: "csv" | "json", version: string, against: string | null): string | null {
  const { trackId } = store.getState();
  return trackId && api.tuningSheetUrl(trackId, kind, version, against);
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
