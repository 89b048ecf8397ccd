/** Versions of the open track: made, named, removed, switched, heard and seen against each other. */

import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { VersionOut } from "../../document/track/model";
import type { CompareOut, VersionChangeIn, VersionIn } from "../../document/schema";
import { store, trackOf } from "../../document/track/store";
import { timesOf } from "../../document/time/times";
import { afterChanges } from "../../session/changes";
import { editedCurves, refresh } from "../notes/editing";
import { applyListening, listenTo } from "../../listening/playing";
import { report, say } from "../../session/report";
import { useEditor } from "../../session/useStore";

async function reload(trackId: string): Promise<void> {
  const { versions, removed } = await api.versions(trackId);
  store.setState({ versions, removedVersions: removed });
}

/** Do something with the versions of the open track, and show them as they are then. */
function change(work: (trackId: string) => Promise<unknown>): Promise<boolean> {
  return afterChanges(async () => {
    const { trackId } = store.getState();
    if (!trackId) return;
    await work(trackId);
    await reload(trackId);
  });
}

/** Work on another version. */
export function switchTo(version: string): Promise<boolean> {
  return change(async (trackId) => {
    await api.openVersion(trackId, version);
    store.setState({ ghost: null });
    await refresh(trackId);
    if (store.getState().listening === "version") listenTo("tuned");
  });
}

/** Make a version and work on it. */
export async function makeVersion(wanted: VersionIn): Promise<boolean> {
  return change(async (trackId) => {
    const made = await api.makeVersion(trackId, wanted);
    await api.openVersion(trackId, made.id);
    await refresh(trackId);
    say(`“${made.name}” is made; you work on it now.`, "done");
  });
}

export function changeVersion(version: string, wanted: VersionChangeIn): Promise<boolean> {
  return change((trackId) => api.changeVersion(trackId, version, wanted));
}

export function removeVersion(version: string): Promise<boolean> {
  return change(async (trackId) => {
    await api.removeVersion(trackId, version);
    if (store.getState().content?.version.id === version) await refresh(trackId);
    if (store.getState().ghost?.versionId === version) store.setState({ ghost: null });
  });
}

export function restoreVersion(version: string): Promise<boolean> {
  return change((trackId) => api.restoreVersion(trackId, version));
}

/** Show another version's tuned thread behind the open one's; the same one again hides it. */
export async function showGhost(version: VersionOut): Promise<void> {
  const { analysis, trackId, ghost } = store.getState();
  if (!analysis || !trackId) return;
  if (ghost?.versionId === version.id) return store.setState({ ghost: null });
  await report(async () => {
    const [{ tuned }, content] = await Promise.all([
      editedCurves(trackId, version.head_id, analysis.frames),
      api.content(trackId, version.id),
    ]);
    const notes = new Map(content.notes.map((note) => [note.id, note.tuned_midi]));
    const times = timesOf(trackOf(store.getState()), content.times);
    store.setState({ ghost: { versionId: version.id, step_id: version.head_id, tuned, notes, times } });
  });
}

/** Hear one of the first nine versions in place of the open one, at the same moment. */
export function hearVersion(place: number): void {
  const { versions, matchLoudness } = store.getState();
  const version = versions[place - 1];
  if (!version) return say(`There is no version ${place}.`, "trouble");
  store.setState({ heardVersion: version.id });
  listenTo("version");
  if (matchLoudness) void measure();
}

/** Whether comparing brings versions to the loudness of the open one. */
export function setMatchLoudness(matchLoudness: boolean): void {
  store.setState({ matchLoudness });
  applyListening();
  if (matchLoudness) void measure();
}

/** Ask for the loudness of what is compared, as far as it is not known, then match it. */
async function measure(): Promise<void> {
  await report(async () => {
    const { content, versions, loudnessOf } = store.getState();
    if (!content) return;
    const found = new Map(loudnessOf);
    for (const step of new Set([content.step_id, ...versions.map((version) => version.head_id)])) {
      if (found.has(step)) continue;
      const { sung, tuned } = await api.loudness(content.track_id, step, 0, null);
      if (tuned.integrated_lufs !== null) found.set(step, tuned.integrated_lufs);
      if (sung.integrated_lufs !== null) found.set("", sung.integrated_lufs);
    }
    store.setState({ loudnessOf: found });
    applyListening();
  });
}

/** Notes that differ between the open version and another one; null while they are looked for. */
export function useCompared(other: VersionOut | null): CompareOut["notes"] | null {
  const here = useEditor((s) => s.content?.step_id);
  const [found, setFound] = useState<{ of: string; notes: CompareOut["notes"] } | null>(null);
  const of = `${here ?? ""}:${other?.head_id ?? ""}`;
  useEffect(() => {
    let current = true;
    void report(async () => {
      const { content } = store.getState();
      if (!content || !other) return;
      const { notes } = await api.compare(content.track_id, other.head_id, content.step_id);
      if (current) setFound({ of, notes });
    });
    return () => {
      current = false;
    };
  }, [of, other]);
  return found?.of === of ? found.notes : null;
}
