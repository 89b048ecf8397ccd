/** Comps of the open track: opened, edited, heard; every edit goes to the server like one of a version. */

import { api, type Base } from "../../api/client";
import { chosenAt, inTrack, phraseStretches, type Stretch } from "../../document/track/comp";
import type { Operation } from "../../document/track/model";
import type { EditOut } from "../../document/schema";
import { store, timesNow, trackOf } from "../../document/track/store";
import { songToTrack, sourceToTrack, timesOf, trackToSong } from "../../document/time/times";
import { clampView } from "../../geometry/viewport";
import { readAddress } from "../../session/address";
import { afterChanges } from "../../session/changes";
import { editedCurves } from "../notes/editing";
import { listenTo, transport } from "../../listening/playing";
import { report, say } from "../../session/report";

export type OnComp = Extract<
  Operation,
  { type: "choose" | "choose_air" | "choose_least_strain" | "move_border" | "catch_up" }
>;

/** Show the sheet, the notes table or the comp. */
/** Load the comps of the open track, and open the first of them or the one that is open. */
export async function showComps(): Promise<void> {
  await report(async () => {
    const { trackId, comp } = store.getState();
    if (!trackId) return;
    const { comps, removed } = await api.comps(trackId);
    store.setState({ comps, removedComps: removed });
    const wanted = comp?.version.id ?? readAddress().query.get("comp");
    const open = comps.find((one) => one.id === wanted) ?? comps[0];
    if (open) await load(trackId, open.id);
    else store.setState({ comp: null });
  });
}

async function load(trackId: string, compId: string): Promise<void> {
  const comp = await api.comp(trackId, compId);
  if (store.getState().trackId !== trackId) return;
  store.setState({ comp, stepsTurn: store.getState().stepsTurn + 1 });
  if (store.getState().compHere === null) goToPhrase(0);
  if (store.getState().panel === "comp" && store.getState().listening !== "comp") listenTo("comp");
  await loadRows(trackId);
}

/** The threads of all versions as they stand now; those that are known already are kept. */
async function loadRows(trackId: string): Promise<void> {
  const { versions, analysis, compRows } = store.getState();
  if (!analysis) return;
  const known = new Map(compRows.map((row) => [row.step_id + row.versionId, row]));
  const rows = await Promise.all(
    versions.map(async ({ id, name, head_id }) => {
      const kept = known.get(head_id + id);
      if (kept) return kept.name === name ? kept : { ...kept, name };
      const [{ tuned }, content] = await Promise.all([
        editedCurves(trackId, head_id, analysis.frames),
        api.content(trackId, id),
      ]);
      const times = timesOf(trackOf(store.getState()), content.times);
      return { versionId: id, name, step_id: head_id, tuned, times };
    }),
  );
  if (store.getState().trackId === trackId) store.setState({ compRows: rows });
}

export function openComp(compId: string): Promise<boolean> {
  return afterChanges(async () => {
    const { trackId } = store.getState();
    if (!trackId) return;
    await load(trackId, compId);
    listenTo("comp");
  });
}

export function makeComp(name: string): Promise<boolean> {
  return afterChanges(async () => {
    const { trackId, content } = store.getState();
    if (!trackId || !content) return;
    const made = await api.makeComp(trackId, { name, version_id: content.version.id });
    await reloadComps(trackId);
    await load(trackId, made.id);
  });
}

async function reloadComps(trackId: string): Promise<void> {
  const { comps, removed } = await api.comps(trackId);
  store.setState({ comps, removedComps: removed });
}

export function removeComp(): Promise<boolean> {
  return afterChanges(async () => {
    const { trackId, comp } = store.getState();
    if (!trackId || !comp) return;
    await api.removeVersion(trackId, comp.version.id);
    store.setState({ comp: null });
    await showComps();
  });
}

export function restoreComp(compId: string): Promise<boolean> {
  return afterChanges(async () => {
    const { trackId } = store.getState();
    if (!trackId) return;
    await api.restoreVersion(trackId, compId);
    await reloadComps(trackId);
    await load(trackId, compId);
  });
}

export function renameComp(name: string): Promise<boolean> {
  return afterChanges(async () => {
    const { trackId, comp } = store.getState();
    if (!trackId || !comp) return;
    await api.changeVersion(trackId, comp.version.id, { name });
    await reloadComps(trackId);
    await load(trackId, comp.version.id);
  });
}

/** Make a version that begins with what the comp chose. */
export function versionFromComp(name: string): Promise<boolean> {
  return afterChanges(async () => {
    const { trackId, comp } = store.getState();
    if (!trackId || !comp) return;
    const made = await api.versionFromComp(trackId, comp.version.id, name);
    const { versions, removed } = await api.versions(trackId);
    store.setState({ versions, removedVersions: removed });
    await loadRows(trackId);
    say(`“${made.name}” is made; it can be chosen and opened like any version.`, "done");
  });
}

function change(send: (trackId: string, base: Base) => Promise<EditOut>): Promise<boolean> {
  return afterChanges(async () => {
    const { trackId, comp } = store.getState();
    if (!trackId || !comp) return;
    try {
      const answer = await send(trackId, { version_id: comp.version.id, base: comp.step_id });
      void transport.moved(trackId, comp.step_id, answer.version.head_id, answer.changed);
    } finally {
      await load(trackId, comp.version.id);
    }
  });
}

export function editComp(operation: OnComp): Promise<boolean> {
  return change((trackId, base) => api.edit(trackId, base, operation));
}

export function undoComp(): Promise<boolean> {
  return change(api.undo);
}

export function redoComp(): Promise<boolean> {
  return change(api.redo);
}

/** Go to any step of the comp. */
export function jumpComp(step: string): Promise<boolean> {
  return change((trackId, base) => api.jump(trackId, base, step));
}

/** Choose a version by its place for the stretch that is looked at, or for another one in song seconds. */
export function chooseHere(place: number, stretch: Stretch | null = store.getState().compHere): void {
  const { compRows } = store.getState();
  const row = compRows[place];
  if (!row) return say(`There is no version ${place + 1}.`, "trouble");
  if (!stretch) return;
  store.setState({ compRow: place });
  void editComp({ type: "choose", version_id: row.versionId, ...inTrack(stretch, timesNow()) });
  if (store.getState().listening === "version") hearRow(place);
}

/** The phrases as stretches of the song, each to the middle of the silence around it. */
export function compPhrases(): Stretch[] {
  const { analysis, comp } = store.getState();
  const times = timesNow();
  const phrases = (analysis?.phrases ?? []).map((phrase) => ({
    start_s: sourceToTrack(phrase.start_s, times),
    end_s: sourceToTrack(phrase.end_s, times),
  }));
  return phraseStretches(phrases, comp?.length_s ?? 0).map(({ start_s, end_s }) => ({
    start_s: trackToSong(start_s, times),
    end_s: trackToSong(end_s, times),
  }));
}

/** Look at a phrase. */
export function goToPhrase(index: number): void {
  const { analysis, view, comp } = store.getState();
  const here = compPhrases()[index];
  if (!here || !analysis || !comp) return;
  const shown = here.start_s >= view.start_s && here.end_s <= view.end_s;
  const length = Math.max(view.end_s - view.start_s, 1.2 * (here.end_s - here.start_s));
  const start_s = here.start_s - 0.1 * length;
  const next = shown ? view : clampView({ ...view, start_s, end_s: start_s + length }, analysis.duration_s);
  const chosen = chosenAt(comp, songToTrack((here.start_s + here.end_s) / 2, timesNow()));
  const row = store.getState().versions.findIndex((version) => version.id === chosen?.version_id);
  store.setState({ compHere: here, view: next, cursor_s: here.start_s, compRow: Math.max(0, row) });
}

/** Look at the phrase at a moment of the song. */
export function goToPhraseAt(song_s: number): void {
  const found = compPhrases().findIndex((phrase) => song_s < phrase.end_s);
  if (found >= 0) goToPhrase(found);
}

/** Look at the next or previous phrase. */
export function stepPhrase(by: 1 | -1): void {
  const phrases = compPhrases();
  const { compHere } = store.getState();
  const middle = compHere ? (compHere.start_s + compHere.end_s) / 2 : 0;
  const at = phrases.findIndex((phrase) => middle < phrase.end_s);
  goToPhrase(Math.min(Math.max((at < 0 ? phrases.length - 1 : at) + by, 0), phrases.length - 1));
}

/** Choose the version above or below for the stretch that is looked at. */
export function stepRow(by: 1 | -1): void {
  const { compRow, compRows } = store.getState();
  const next = compRow + by;
  if (next >= 0 && next < compRows.length) chooseHere(next);
}

/** Hear a version in place of the comp, at the same moment. */
export function hearRow(place: number): void {
  const row = store.getState().compRows[place];
  if (!row) return;
  store.setState({ heardVersion: row.versionId });
  listenTo("version");
}

/** Hear the row that is looked at, or the comp again. */
export function toggleRow(): void {
  const { listening, compRow } = store.getState();
  if (listening === "version") listenTo("comp");
  else hearRow(compRow);
}

/** Take air from a version, over what is looked at or everywhere. */
export function airFrom(version_id: string, kinds: ("sibilant" | "consonant" | "breath")[], whole: boolean): void {
  void editComp({ type: "choose_air", version_id, kinds, ...reach(whole) });
}

export function leastStrainFrom(version_ids: string[], above: number, flagged: boolean, whole: boolean): void {
  void editComp({ type: "choose_least_strain", version_ids, above, flagged, ...reach(whole) });
}

function reach(whole: boolean): { start_s?: number; end_s?: number } {
  const { compHere } = store.getState();
  return whole || !compHere ? {} : inTrack(compHere, timesNow());
}

/** Set the stretch that is looked at, in song seconds. */
export function lookAt(start_s: number, end_s: number): boolean {
  if (!(end_s > start_s)) return false;
  store.setState({ compHere: { start_s, end_s } });
  return true;
}
