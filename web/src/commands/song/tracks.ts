/** What a track is called, is and where it stands; tracks and songs removed and brought back. */

import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { RemovedThingOut, TrackChangeIn } from "../../document/schema";
import { store } from "../../document/track/store";
import { vocalsOf } from "../../document/track/vocals";
import { goTo } from "../../session/address";
import { report, say } from "../../session/report";
import { refreshOpen, refreshSong } from "../notes/editing";
import { loadSongs } from "./songs";

/** Go to another track of the song when the open one is no longer in it, and say so. */
export function leaveWhatIsGone(): boolean {
  const { song, trackId } = store.getState();
  if (!song || !trackId || song.tracks.some((track) => track.id === trackId)) return false;
  say("The track that was open is removed; the song's steps bring it back.", "done");
  goTo(vocalsOf(song).length > 0 ? `/song/${song.id}` : "/");
  return true;
}

async function shownAnew(trackId: string): Promise<void> {
  const { song, songs } = store.getState();
  if (song) {
    await refreshSong();
    if (!leaveWhatIsGone()) await refreshOpen([trackId]);
  }
  if (songs) await loadSongs();
}

/** Change name, role, place or singer of a track, made on a turn of the song: what others changed since is kept. */
export function changeTrackOf(trackId: string, values: TrackChangeIn, base: number): Promise<boolean> {
  return report(async () => {
    await api.changeTrack(trackId, { ...values, base });
    await shownAnew(trackId);
  });
}

/** Take a track out of its song. */
export function removeTrack(trackId: string, name: string): Promise<boolean> {
  return report(async () => {
    await api.removeTrack(trackId);
    await shownAnew("");
    say(`“${name}” is removed. Undo in the song's steps, or “Removed” among the songs, brings it back.`, "done");
  });
}

/** What was removed and can be brought back; asked for again whenever the songs are. */
export function useRemoved(): { removed: RemovedThingOut[]; again: () => void } {
  const [removed, setRemoved] = useState<RemovedThingOut[]>([]);
  const [turn, setTurn] = useState(0);
  useEffect(() => void report(async () => setRemoved((await api.removed()).removed), "What was removed"), [turn]);
  useEffect(() => store.subscribe((now, before) => now.songs !== before.songs && setTurn((old) => old + 1)), []);
  return { removed, again: () => setTurn((old) => old + 1) };
}

/** Bring a removed song or track back. */
export async function bringBack({ kind, id, name }: RemovedThingOut): Promise<void> {
  const done = await report(() => (kind === "song" ? api.restoreSong(id) : api.restoreTrack(id)), name);
  if (done) say(`“${name}” is back.`, "done");
  await loadSongs();
}

/** Take away for good what was removed. */
export async function sweepRemoved(): Promise<void> {
  await report(async () => {
    const { size } = await api.sweepRemoved();
    say(`Swept away: ${(size / 1e6).toFixed(1)} MB of the disk are free again.`, "done");
  });
  await loadSongs();
}
