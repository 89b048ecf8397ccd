/** Levels and places of the song's tracks, and which of them are heard. */

import { api } from "../api/client";
import type { TrackChangeIn } from "../document/schema";
import { store } from "../document/track/store";
import { afterChanges } from "../session/changes";
import { applyListening } from "./playing";

/** Change level, place or mute of a track; what plays follows at once. */
export function changeTrack(trackId: string, values: TrackChangeIn): Promise<boolean> {
  return afterChanges(async () => {
    const track = await api.changeTrack(trackId, values);
    const { song } = store.getState();
    if (!song) return;
    const tracks = song.tracks.map((one) => (one.id === trackId ? { ...one, ...track } : one));
    store.setState({ song: { ...song, tracks } });
    applyListening();
  });
}

/** Hear a track alone, with others that are heard alone; a second time no longer. */
export function toggleSolo(trackId: string): void {
  const soloed = new Set(store.getState().soloed);
  if (!soloed.delete(trackId)) soloed.add(trackId);
  store.setState({ soloed, others: true });
  applyListening();
}

/** Put the tracks of the open song into an order. */
export function orderTracks(songId: string, ids: string[]): Promise<boolean> {
  return afterChanges(async () => {
    const song = await api.orderTracks(songId, ids);
    if (store.getState().song?.id === songId) store.setState({ song });
  });
}
