/** The notes of another track behind those of the open one. */

import { api } from "../../api/client";
import { store } from "../../document/track/store";
import { report } from "../../session/report";

/** Show the notes of another track, as it stands, or hide them when they are shown. */
export async function toggleBeneath(trackId: string): Promise<void> {
  if (store.getState().beneath?.trackId === trackId) {
    store.setState({ beneath: null });
    return;
  }
  await report(async () => {
    const track = store.getState().song?.tracks.find((one) => one.id === trackId);
    if (!track) return;
    const small = await api.inSmall(trackId, track.head_id);
    const notes = small.notes.map((note) => ({
      start_s: note.start_s + track.offset_s,
      end_s: note.end_s + track.offset_s,
      midi: note.midi,
    }));
    store.setState({ beneath: { trackId, name: track.name, notes } });
  });
}
