/** The notes of another track behind those of the open one. */

import { api } from "../api/client";
import { store } from "../document/store";
import { sourceToSong, timesOf } from "../document/times";
import { report } from "./report";

/** Show the notes of another track, as it stands, or hide them when they are shown. */
export async function toggleBeneath(trackId: string): Promise<void> {
  if (store.getState().beneath?.trackId === trackId) {
    store.setState({ beneath: null });
    return;
  }
  await report(async () => {
    const track = store.getState().song?.tracks.find((one) => one.id === trackId);
    if (!track) return;
    const content = await api.content(trackId);
    const times = timesOf(track, content.times);
    const notes = content.notes.map((note) => ({
      start_s: sourceToSong(note.start_s, times),
      end_s: sourceToSong(note.end_s, times),
      midi: note.tuned_midi,
    }));
    store.setState({ beneath: { trackId, name: track.name, notes } });
  });
}
