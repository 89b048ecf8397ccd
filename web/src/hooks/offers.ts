/** What a song that has no key or no tempo yet is offered: one press takes it, none is forced. */

import { api } from "../api/client";
import type { KeyOut, MidiTempoOut, SongOut, TempoOut } from "../document/schema";
import { store } from "../document/store";
import { report } from "./report";
import { changeSong } from "./songs";

export type Offered = "key" | "tempo";

/** Ask what the open track sounds like; it may take a moment when there is a backing. */
export async function loadKeys(trackId: string): Promise<void> {
  await listenFor("key", async () => {
    const keys = await api.keys(trackId);
    if (store.getState().trackId === trackId) store.setState({ keys });
  });
}

/** Ask for the tempo of the open song. */
export async function loadTempo(songId: string): Promise<void> {
  await listenFor("tempo", async () => {
    const tempos = await api.tempo(songId);
    if (store.getState().song?.id === songId) store.setState({ tempos });
  });
}

async function listenFor(what: Offered, ask: () => Promise<void>): Promise<void> {
  const others = (): Offered[] => [...store.getState().unheard].filter((one) => one !== what);
  store.setState({ unheard: new Set(others()) });
  const heard = await report(ask, `The ${what}`); // named, as its going well mends nothing else that is being said
  if (!heard) store.setState({ unheard: new Set([...others(), what]) });
}

/** Ask for what a song that was just opened does not have yet. */
export function loadOffers(song: SongOut, trackId: string): void {
  if (!song.key_chosen) void loadKeys(trackId);
  if (!song.tempo_chosen) void loadTempo(song.id);
}

export function takeKey(key: Pick<KeyOut, "tonic" | "scale">): void {
  void changeSong({ tonic: key.tonic, scale: key.scale });
}

/** Tune the song to where the track was sung. */
export function takeReference(hz: number): void {
  void changeSong({ reference_hz: Math.round(10 * hz) / 10 });
}

/** Work without a key: every semitone keeps its line. */
export function takeNoKey(): void {
  void changeSong({ tonic: 0, scale: "chromatic" });
}

export function takeTempo(tempo: TempoOut): void {
  const { beats_per_bar, bar_one_s } = tempo;
  void changeSong({ tempo: roundedTempo(tempo.bpm), beats_per_bar, bar_one_s: Math.round(1000 * bar_one_s) / 1000 });
}

/** Keep the bars as they are. */
export function keepTempo(): void {
  const { song } = store.getState();
  if (song) void changeSong({ tempo: song.tempo });
}

/** A tempo as one types it. */
export function roundedTempo(bpm: number): number {
  return Math.round(100 * bpm) / 100;
}

/** Read a MIDI file's tempo and key; null when it cannot be used, which is then said. */
export async function readMidi(file: File): Promise<MidiTempoOut | null> {
  let read: MidiTempoOut | null = null;
  await report(async () => {
    read = await api.midiTempo(file);
  }, file.name);
  return read;
}

/** Do not make an offer for the open song again while the page is open. */
export function offerLater(what: Offered): void {
  const { song, offersLater } = store.getState();
  if (song) store.setState({ offersLater: new Set([...offersLater, `${what} ${song.id}`]) });
}
