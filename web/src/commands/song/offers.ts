/** What a song that has no key or no tempo yet is offered: one press takes it, none is forced. */

import { api } from "../../api/client";
import type { KeyOut, MidiTempoOut, SongOut, TempoOut } from "../../document/schema";
import { type EditorState, type Offered, store } from "../../document/track/store";
import { report } from "../../session/report";
import { changeSong } from "./songs";

/** Ask what the open track sounds like; it may take a moment when there is a backing. */
export function loadKeys(trackId: string): Promise<void> {
  const still = (): boolean => store.getState().trackId === trackId;
  return listenFor("key", still, async () => ({ keys: await api.keys(trackId) }));
}

/** Ask for the tempo of the open song. */
export function loadTempo(songId: string): Promise<void> {
  const still = (): boolean => store.getState().song?.id === songId;
  return listenFor("tempo", still, async () => ({ tempos: await api.tempo(songId) }));
}

/** Ask, and keep what is found, or that it was not, while it is `still` about what is open. */
async function listenFor(
  what: Offered,
  still: () => boolean,
  ask: () => Promise<Pick<EditorState, "keys"> | Pick<EditorState, "tempos">>,
): Promise<void> {
  const others = (): Offered[] => [...store.getState().unheard].filter((one) => one !== what);
  store.setState({ unheard: new Set(others()) });
  const listen = async (): Promise<void> => {
    const found = await ask();
    if (still()) store.setState(found);
  };
  const heard = await report(listen, `The ${what}`); // named, as its going well mends nothing else that is being said
  if (!heard && still()) store.setState({ unheard: new Set([...others(), what]) });
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
