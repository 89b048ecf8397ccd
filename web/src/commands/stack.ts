/** All tracks of the song together: what is heard of each, and edits of several at once. */

import { api } from "../api/client";
import type { Operation } from "../document/track/model";
import type { TrackOut } from "../document/schema";
import { store } from "../document/track/store";
import { vocalsOf } from "../document/track/vocals";
import { afterChanges } from "../session/changes";
import { refreshOpen, refreshSong } from "./notes/editing";
import { report, say } from "../session/report";

const LEAST_QUIET_MS = 800; // after the last edit of a lead before what follows it catches up

async function changed(trackIds: string[]): Promise<void> {
  await refreshOpen(trackIds);
  await refreshSong();
}

/** Apply an operation to all of several tracks: one step in each, undone as one. */
export function editTracks(operation: Operation, trackIds: readonly string[], more = ""): Promise<boolean> {
  return afterChanges(async () => {
    const { song } = store.getState();
    if (!song) return;
    const { tracks } = await api.editTracks(song.id, operation, [...trackIds]);
    const told = tracks.map((track) => `${track.changed} in ${track.name}`).join(", ");
    await changed(tracks.filter((track) => track.changed > 0).map((track) => track.track_id));
    const some = tracks.some((track) => track.changed > 0);
    say(`${some ? `Changed: ${told}.` : "There was nothing to change."}${more}`, "done");
  });
}

/** Remove the breaths of doubles and harmonies; the lead keeps its own. */
export function clearBreathsOfStack(): Promise<boolean> {
  const tracks = vocals().filter((track) => track.role === "double" || track.role === "harmony");
  if (tracks.length === 0) {
    say("This song has no doubles or harmonies yet; bring them in with that role.", "trouble");
    return Promise.resolve(false);
  }
  const ids = tracks.map((track) => track.id);
  return clearBreaths(ids, " The lead keeps its own.");
}

export function clearBreaths(trackIds: readonly string[], more = ""): Promise<boolean> {
  return editTracks({ type: "set_breaths", note_ids: [], air_ids: [], values: { muted: true } }, trackIds, more);
}

function vocals(): TrackOut[] {
  return vocalsOf(store.getState().song);
}

/** Choose tracks to edit them together; only vocals can be. */
export function chooseTracks(ids: Iterable<string>): void {
  const wanted = new Set(ids);
  store.setState({ chosenTracks: new Set(vocals().flatMap(({ id }) => (wanted.has(id) ? [id] : []))) });
}

export function chooseAllTracks(): void {
  chooseTracks(vocals().map((track) => track.id));
}

/** Load a track in small as it is heard now, unless it is there. */
export async function loadSmall(track: TrackOut): Promise<void> {
  if (!track.ready || store.getState().inSmall.get(track.id)?.step === track.head_id) return;
  await report(async () => {
    const small = await api.inSmall(track.id, track.head_id);
    const inSmall = new Map(store.getState().inSmall).set(track.id, { step: track.head_id, ...small });
    store.setState({ inSmall });
  }, track.name);
}

/** The versions and comps of a track that the stack can have, by id with their names. */
export async function heardChoices(trackId: string): Promise<[string, string][]> {
  let found: [string, string][] = [];
  await report(async () => {
    const [{ versions }, { comps }] = await Promise.all([api.versions(trackId), api.comps(trackId)]);
    found = [...versions, ...comps].map((version) => [version.id, version.name]);
  }, "Versions");
  return found;
}

/** Let what follows the open track by itself catch up once its edits have come to rest; returns what stops that. */
export function watchLead(): () => void {
  let quiet: number | undefined;
  return store.subscribe((now, before) => {
    const [open, was] = [now.content, before.content];
    const edited = open && open.track_id === was?.track_id && open.step_id !== was.step_id;
    const [song, then] = [now.song, before.song];
    const otherKeys = song && song.id === then?.id && song.turn !== then.turn && song.key_title !== then.key_title;
    if (!open || !(edited || otherKeys)) return;
    window.clearTimeout(quiet);
    quiet = window.setTimeout(() => void followersOf(open.track_id), LEAST_QUIET_MS);
  });
}

const FOLLOWERS = "What follows"; // so that its going well takes no message of an edit away

async function followersOf(trackId: string): Promise<void> {
  await report(async () => {
    const { tracks } = await api.followersCatchUp(trackId);
    if (tracks.length === 0) return;
    if (!(await afterChanges(() => changed(tracks.map((track) => track.track_id))))) return; // said already
    const stuck = tracks.find((track) => track.trouble !== "");
    if (stuck) say(`${stuck.name} could not catch up: ${stuck.trouble}`, "trouble", FOLLOWERS);
    else say(`Caught up: ${tracks.map((track) => track.name).join(", ")}.`, "done");
  }, FOLLOWERS);
}
