/** Edits over all tracks of the song. */

import { api } from "../api/client";
import { store } from "../document/store";
import { refreshOpen } from "./editing";
import { report, say } from "./report";

/** Remove the breaths of doubles and harmonies; the lead keeps its own. */
export async function clearStackBreaths(): Promise<void> {
  const { song } = store.getState();
  if (!song) return;
  await report(async () => {
    const { tracks } = await api.stackBreaths(song.id, { level_db: 0, muted: true });
    const told = tracks.map((track) => `${track.changed} of ${track.name}`).join(", ");
    await refreshOpen(tracks.map((track) => track.track_id));
    say(`Breaths removed: ${told}. The lead keeps its own.`, "done");
  });
}
