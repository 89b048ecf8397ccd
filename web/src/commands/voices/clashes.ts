/** Notes that clash with the chord, flagged like others as long as chords are shown. */

import { CLASH, clashOf } from "../../document/music/chord_place";
import { meterAt } from "../../document/music/tempo_map";
import type { NoteOut } from "../../document/schema";
import { sourceToSong, type TrackTimes } from "../../document/time/times";
import type { EditorState } from "../../document/track/store";

const HURT = 0.5; // comes after what an ear would stop at

/** What it is told by: chords while they are shown, and where the track's notes lie. */
export type ShownChords = Pick<EditorState, "chords" | "showsChords" | "song"> & { times: TrackTimes };

/** Notes with a flag more where one clashes with its chord. */
export function withClashes(
  notes: readonly NoteOut[],
  { chords, showsChords, song, times }: ShownChords,
): readonly NoteOut[] {
  if (!showsChords || !song || chords.length === 0) return notes;
  return notes.map((note) => {
    const [start_s, end_s] = [sourceToSong(note.start_s, times), sourceToSong(note.end_s, times)];
    if (note.spoken || note.meant.includes(CLASH)) return note;
    const beat_s = meterAt(start_s, song).beat_s;
    const chord = clashOf(chords, { start_s, end_s, midi: note.target_midi }, beat_s);
    if (!chord) return note;
    const flag = { kind: CLASH, reason: `held a semitone beside a note of ${chord}`, hurt: HURT };
    return { ...note, flags: [...note.flags, flag] };
  });
}
