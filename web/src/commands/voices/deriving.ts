/** Doubles and harmonies of the open track, made as tracks of their own. */

import { api } from "../../api/client";
import type { Operation } from "../../document/track/model";
import { store } from "../../document/track/store";
import { afterChanges } from "../../session/changes";
import { dropPreview } from "../notes/previewing";
import { applyListening } from "../../listening/playing";
import { say } from "../../session/report";

export type Double = Extract<Operation, { type: "double" }>;
export type Harmony = Extract<Operation, { type: "harmony" }>;

/** Make tracks of the open one as it stands; they are heard along at once. */
export function derive(operation: Double | Harmony, voices = 1): Promise<boolean> {
  dropPreview();
  return afterChanges(async () => {
    const { trackId, song } = store.getState();
    if (!trackId || !song) return;
    const { tracks } = await api.derive(trackId, { operation, voices });
    const now = await api.song(song.id);
    if (store.getState().song?.id !== song.id) return;
    store.setState({ song: now, others: true });
    applyListening();
    say(`Made: ${tracks.map((track) => track.name).join(", ")}. Choose one above to work on it.`, "done");
  });
}
