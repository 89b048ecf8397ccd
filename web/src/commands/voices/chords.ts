/** Chords: typed over those that are heard, read from a file, cleared; and handed to what keeps to them. */

import { api } from "../../api/client";
import type { ChordOut, TypedChord } from "../../document/schema";
import { meterAt } from "../../document/music/tempo_map";
import { barAndBeat } from "../../document/time/time_text";
import { store, trackOf } from "../../document/track/store";
import { changeOpenSong } from "../../session/changes";
import { report } from "../../session/report";

/** Names as they are typed for parts of one length: “Dm | G7”. */
export function partsOf(typed: string): string[] {
  return typed
    .split(/[|,;]+/)
    .map((part) => part.trim())
    .filter(Boolean);
}

interface Place {
  bar: number;
  beat: number;
}

const ON_THE_BEAT = 2e-3; // share of a beat that is none: times are kept to a microsecond, places to a thousandth

/** Bar and beat of a moment, with what of the beat is over. */
function placeAt(song_s: number): Place {
  const song = store.getState().song!;
  const { bar, beat, since_s } = barAndBeat(song_s, song);
  const share = since_s / meterAt(song_s, song).beat_s;
  return { bar, beat: share < ON_THE_BEAT ? beat : Math.round(1000 * (beat + share)) / 1000 };
}

/** A stretch of the song in equal parts, each with a chord. */
function chordsOver(start_s: number, end_s: number, names: readonly string[]): TypedChord[] {
  const edge = (i: number): Place => placeAt(start_s + ((end_s - start_s) * i) / names.length);
  return names.map((label, i) => {
    const until = edge(i + 1);
    return { ...edge(i), until_bar: until.bar, until_beat: until.beat, label };
  });
}

/** Have other chords typed; what somebody else typed meanwhile is not overwritten. */
function retype(change: (typed: readonly TypedChord[]) => TypedChord[]): Promise<boolean> {
  return changeOpenSong(({ id, chords, turn }) => api.changeSong(id, { chords: change(chords), base: turn }));
}

function put(more: readonly TypedChord[]): Promise<boolean> {
  return retype((typed) => [...typed, ...more]);
}

/** Type over a chord; several names share its time. */
export function typeOver(chord: ChordOut, typed: string): Promise<boolean> {
  return put(chordsOver(chord.start_s, chord.end_s, partsOf(typed)));
}

/** Type chords from a bar on, one a bar. */
export function typeBars(from: number, typed: string): Promise<boolean> {
  return put(
    partsOf(typed).map((label, i) => ({ bar: from + i, beat: 1, until_bar: from + i + 1, until_beat: 1, label })),
  );
}

/** Have what was typed at a chord's place heard again. */
export function clearTyped(chord: ChordOut): void {
  const { bar, beat } = placeAt(chord.start_s);
  const here = (one: TypedChord): boolean => one.bar === bar && Math.abs(one.beat - beat) < 0.01;
  void retype((typed) => typed.filter((one) => !here(one)));
}

export function clearAllTyped(): void {
  void retype(() => []);
}

/** Take the chords of a MIDI file that begins with bar 1 in place of what was typed. */
export function chordsFromMidi(file: File): Promise<boolean> {
  return changeOpenSong(async (song) =>
    api.changeSong(song.id, { chords: (await api.midiChords(song.id, file)).chords }),
  );
}

/** Ask for the chords of the open song. */
export async function loadChords(): Promise<void> {
  const songId = store.getState().song?.id;
  if (!songId) return;
  await report(async () => {
    const { chords } = await api.chords(songId);
    if (store.getState().song?.id === songId) store.setState({ chords });
  }, "The chords");
}

/** Chords as operations take them: start, end in seconds of the open track, and a pitch class a row, the root first. */
export function chordRows(chords: readonly ChordOut[]): [number, number, number][] {
  const at = trackOf(store.getState())?.offset_s ?? 0;
  return chords.flatMap(({ start_s, end_s, classes }) =>
    classes.map((one): [number, number, number] => [start_s - at, end_s - at, one]),
  );
}
