/** How a pitch sits on a chord. */

import type { ChordOut } from "../schema";

const NONE = "N";
/** What a note of a chord is called by its semitones over the root. */
const PARTS: readonly string[] = [
  "root",
  "ninth",
  "second",
  "third",
  "third",
  "fourth",
  "fifth",
  "fifth",
  "fifth",
  "sixth",
  "seventh",
  "seventh",
];

/** The chord that sounds at a moment of the song; none in a stretch without. */
export function chordAt(chords: readonly ChordOut[], song_s: number): ChordOut | undefined {
  return chords.find((one) => one.start_s <= song_s && song_s < one.end_s && one.label !== NONE);
}

/** Part of the chord, neighbour, or clash: a semitone beside one of its notes. */
export function placeOn(chord: Pick<ChordOut, "classes">, midi: number): string {
  const [root] = chord.classes;
  if (root === undefined) return "";
  const own = ((Math.round(midi) % 12) + 12) % 12;
  if (chord.classes.includes(own)) return PARTS[(own - root + 12) % 12]!;
  const beside = chord.classes.some((one) => (own - one + 12) % 12 === 1 || (one - own + 12) % 12 === 1);
  return beside ? "clash" : "neighbour";
}

export const CLASH = "clashes with the chord";
const HELD_BEATS = 0.5;

/** Whether a note is held for over half a beat a semitone beside a note of its chord: what it is beside, or "". */
export function clashOf(
  chords: readonly ChordOut[],
  { start_s, end_s, midi }: { start_s: number; end_s: number; midi: number },
  beat_s: number,
): string {
  const chord = chordAt(chords, (start_s + end_s) / 2);
  if (!chord || placeOn(chord, midi) !== "clash") return "";
  const together = Math.min(end_s, chord.end_s) - Math.max(start_s, chord.start_s);
  return together > HELD_BEATS * beat_s ? chord.title : "";
}
