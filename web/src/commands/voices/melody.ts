/** Melodies that are given to notes: read from a MIDI file, typed, or drawn on the sheet. */

import { api } from "../../api/client";
import { lineAt } from "../../document/music/melody_line";
import type { NoteOut, Operation } from "../../document/track/model";
import { linesOf } from "../../document/music/pitch_names";
import { roundPitch } from "../../document/music/rounding";
import { store, timesNow, trackOf } from "../../document/track/store";
import { sourceToTrack } from "../../document/time/times";
import { report } from "../../session/report";

export type Melody = Extract<Operation, { type: "melody" }>;

/** Notes of a melody in seconds of the track, and how the sung ones find theirs. */
export interface Given {
  melody: Melody["melody"];
  match: NonNullable<Melody["match"]>;
}

/** The notes of a MIDI file on the open track's clock; its beginning is bar 1.  Null when it cannot be used. */
export async function readMelody(file: File): Promise<Given["melody"] | null> {
  let melody: Given["melody"] | null = null;
  await report(async () => {
    const { song } = store.getState();
    if (!song) return;
    const { notes } = await api.midiNotes(song.id, file);
    const track = trackOf(store.getState());
    const shift = song.bar_one_s - (track?.offset_s ?? 0);
    melody = notes.map((note): [number, number, number] => [note.start_s + shift, note.end_s + shift, note.midi]);
  }, file.name);
  return melody;
}

/** A melody that has for each note where it is the pitch that is given for it. */
function overNotes(notes: readonly NoteOut[], pitches: readonly (number | null)[]): Given | null {
  const times = timesNow();
  const melody = notes.flatMap((note, i): [number, number, number][] => {
    const midi = pitches[i] ?? null;
    return midi === null ? [] : [[sourceToTrack(note.start_s, times), sourceToTrack(note.end_s, times), midi]];
  });
  return melody.length > 0 ? { melody, match: "time" } : null;
}

const TYPED = "The melody";

/** A melody of typed names, one for each note; null while there is none. */
export async function typedMelody(text: string, notes: readonly NoteOut[]): Promise<Given | null> {
  const { song } = store.getState();
  if (!song || text.trim() === "") return null;
  let given: Given | null = null;
  await report(async () => {
    const { pitches } = await api.typedMelody(song.id, text);
    given = overNotes(notes, pitches);
  }, TYPED);
  return given;
}

/** A melody of lines that were drawn over notes. */
export function drawnMelody(notes: readonly NoteOut[], lines: readonly (readonly [number, number][])[]): Given | null {
  const { song, view } = store.getState();
  if (!song) return null;
  const pitches = notes.map((note) => {
    const drawn = lineAt(lines, note.start_s, note.end_s);
    return drawn === null ? null : roundPitch(drawn, linesOf(song, note, view.times.offset_s), "scale");
  });
  return overNotes(notes, pitches);
}

/** Have a press on the pitch lane draw a melody; returns what ends that. */
export function drawMelody(): () => void {
  store.setState({ melodyLines: [], drawsMelody: true });
  return () => store.setState({ melodyLines: [], drawsMelody: false });
}

export function clearMelodyLine(): void {
  store.setState({ melodyLines: [] });
}

/** What of a melody and of some notes did not find each other; null when it cannot be said. */
export async function matchMelody(
  { melody, match }: Given,
  note_ids: string[],
): Promise<{ alone: string[]; melody_alone: number[] } | null> {
  const { content } = store.getState();
  if (!content) return null;
  return api.melodyMatch(content.track_id, { step: content.step_id, note_ids, melody, match }).catch(() => null);
}
