/** Pitches as the server lists them: which there are, what they are called, and in which key of the song. */

import type { KeyPlaceOut, PitchesOut, PitchLineOut } from "../schema";

/** Every pitch of a tuning, rising. */
export type Lines = readonly PitchLineOut[];

/** What is asked of a song here. */
export interface Keyed {
  pitches: PitchesOut | null;
}

/** A key, how long it lasts in the song, and its pitches. */
export interface KeySpan {
  key: KeyPlaceOut;
  end_s: number;
  lines: Lines;
}

const SETTLED_S = 0.1; // into a note, where it has left the one before it: as the core has it

/** The keys of a song in order. */
export function keySpans({ pitches }: Keyed): KeySpan[] {
  if (!pitches) return [];
  return pitches.keys.map((key, i) => ({
    key,
    end_s: pitches.keys[i + 1]?.start_s ?? Infinity,
    lines: pitches.tunings[key.tuning]!.lines,
  }));
}

/** Moments at which the key changes, in order. */
export function keyMarks(song: Keyed): number[] {
  return keySpans(song)
    .slice(1)
    .map(({ key }) => key.start_s);
}

/** The pitches at a moment of the song. */
export function linesAt({ pitches }: Keyed, song_s: number): Lines {
  if (!pitches) return [];
  const key = pitches.keys.findLast((one) => one.start_s <= song_s) ?? pitches.keys[0]!;
  return pitches.tunings[key.tuning]!.lines;
}

/** The pitches at a note of a track whose recording begins at a moment of the song. */
export function linesOf(song: Keyed, note: { start_s: number; end_s: number }, offset_s: number): Lines {
  return linesAt(song, offset_s + Math.min(note.start_s + SETTLED_S, (note.start_s + note.end_s) / 2));
}

/** The pitch nearest to one, of two the higher; only among allowed ones when asked. */
export function lineNear(lines: Lines, midi: number, allowed = false): PitchLineOut | undefined {
  let [low, high] = [0, lines.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (lines[middle]!.midi < midi) low = middle + 1;
    else high = middle;
  }
  let [below, above] = [low - 1, low];
  while (allowed && below >= 0 && !lines[below]!.allowed) below--;
  while (allowed && above < lines.length && !lines[above]!.allowed) above++;
  const [under, over] = [lines[below], lines[above]];
  if (!under || !over) return under ?? over;
  return over.midi - midi <= midi - under.midi ? over : under;
}

/** A signed whole number with a real minus sign; an empty string for 0 when asked. */
export function signed(value: number, digits = 0): string {
  const text = Math.abs(value).toFixed(digits);
  if (Number(text) === 0) return text;
  return (value < 0 ? "−" : "+") + text;
}

export function pitchName(midi: number, lines: Lines): string {
  return lineNear(lines, midi)?.name ?? "";
}

/** A pitch by the name of a line and how many whole cents it is off that line. */
function labelled(line: PitchLineOut, midi: number): { name: string; cents: number } {
  return { name: line.name, cents: Math.floor(100 * (midi - line.midi) + 0.5) };
}

function labelText({ name, cents }: { name: string; cents: number }): string {
  return cents === 0 ? name : `${name} ${signed(cents)}`;
}

/** Name with signed cents, e.g. F♯4 −12. */
export function pitchLabel(midi: number, lines: Lines): string {
  const line = lineNear(lines, midi);
  return line ? labelText(labelled(line, midi)) : "";
}

/** What is asked of a note that is called by a name. */
interface Named {
  start_s: number;
  end_s: number;
  target_midi?: number;
}

const OWN_SEMITONES = 1; // within which a pitch is told by the note's own target: it is a G that is 58 cents high

/** A pitch of a note, told alike wherever the note is named: from its target where it is near that, else by its own name. */
export function notePitch(song: Keyed, note: Named, midi: number, offset_s: number): { name: string; cents: number } {
  const lines = linesOf(song, note, offset_s);
  const own = note.target_midi === undefined ? undefined : lineNear(lines, note.target_midi);
  const line = own && Math.abs(own.midi - midi) < OWN_SEMITONES ? own : lineNear(lines, midi);
  return line ? labelled(line, midi) : { name: "", cents: 0 };
}

/** The name of a note's pitch, with cents, in the key it is sung in. */
export function noteLabel(song: Keyed, note: Named, midi: number, { offset_s }: { offset_s: number }): string {
  return labelText(notePitch(song, note, midi, offset_s));
}
