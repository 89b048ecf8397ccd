/** Doubles and harmonies of the open track, made as tracks of their own. */

import { api } from "../api/client";
import type { Operation } from "../document/model";
import { store, trackOf } from "../document/store";
import { afterChanges } from "./editing";
import { applyListening } from "./playing";
import { report, say } from "./report";

export type Double = Extract<Operation, { type: "double" }>;
export type Melody = Extract<Operation, { type: "melody" }>;
export type Harmony = Extract<Operation, { type: "harmony" }>;

/** Make tracks of the open one as it stands; they are heard along at once. */
export function derive(operation: Double | Harmony, voices = 1): Promise<boolean> {
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

/** The notes of a MIDI file on the open track's clock; its beginning is bar 1.  Null when it cannot be used. */
export async function readMelody(file: File): Promise<Melody["melody"] | null> {
  let melody: Melody["melody"] | null = null;
  await report(async () => {
    const { notes } = await api.midiNotes(file);
    const { song } = store.getState();
    const track = trackOf(store.getState());
    const shift = (song?.bar_one_s ?? 0) - (track?.offset_s ?? 0);
    melody = notes.map((note): [number, number, number] => [note.start_s + shift, note.end_s + shift, note.midi]);
  }, file.name);
  return melody;
}
