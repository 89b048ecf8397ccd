/** Names of intervals between two pitches. */

const NAMES = [
  "unison",
  "minor second",
  "major second",
  "minor third",
  "major third",
  "fourth",
  "tritone",
  "fifth",
  "minor sixth",
  "major sixth",
  "minor seventh",
  "major seventh",
];

/** The interval from a pitch up or down to another one, in MIDI, to the nearest semitone: “major third above”. */
export function intervalName(from: number, to: number): string {
  const steps = Math.round(to - from);
  const size = Math.abs(steps);
  if (size === 0) return "unison";
  const side = steps > 0 ? "above" : "below";
  if (size % 12 === 0) return `${size === 12 ? "octave" : `${size / 12} octaves`} ${side}`;
  return `${size > 12 ? "octave and " : ""}${NAMES[size % 12]} ${side}`;
}
