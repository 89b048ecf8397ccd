/** Names of pitches, with real ♯ ♭ and a real minus sign; C4 = MIDI 60. */

const SHARPS = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];
const FLATS = ["C", "D♭", "D", "E♭", "E", "F", "G♭", "G", "A♭", "A", "B♭", "B"];
const FLAT_MAJORS = new Set([5, 10, 3, 8, 1]);
// Keys of six signs are written either way: E♭ and B♭ are never called D♯ and A♯ (common practice, no source).
const SIX_SIGNS = 6;
const FLAT_BY_HABIT = new Set([3, 5, 10]);
const MAJOR_ABOVE: Record<string, number> = {
  "natural minor": 3,
  "harmonic minor": 3,
  "melodic minor": 3,
  "minor pentatonic": 3,
  dorian: 10,
  phrygian: 8,
  lydian: 7,
  mixolydian: 5,
  locrian: 1,
};

export interface KeyLike {
  tonic: number;
  scale: string;
  classes: number[];
  reference_hz: number;
}

/** Whether a key is spelled with flats. */
export function spelledWithFlats(key: KeyLike): boolean {
  const major = (key.tonic + (MAJOR_ABOVE[key.scale] ?? 0)) % 12;
  return FLAT_MAJORS.has(major) || (major === SIX_SIGNS && FLAT_BY_HABIT.has(key.tonic));
}

/** Semitones by which the song's tuning lies above A4 = 440 Hz. */
export function tuningOffset(key: KeyLike): number {
  return 12 * Math.log2(key.reference_hz / 440);
}

export function className(pitchClass: number, flats: boolean): string {
  return (flats ? FLATS : SHARPS)[((pitchClass % 12) + 12) % 12]!;
}

/** A key in words, e.g. D natural minor; chromatic is no key. */
export function keyName(key: { tonic: number; scale: string }): string {
  if (key.scale === "chromatic") return "no key";
  return `${className(key.tonic, spelledWithFlats({ ...key, classes: [], reference_hz: 440 }))} ${key.scale}`;
}

export function pitchName(midi: number, flats: boolean): string {
  const nearest = Math.floor(midi + 0.5);
  const octave = Math.floor(nearest / 12) - 1;
  return className(nearest, flats) + (octave < 0 ? `−${-octave}` : String(octave));
}

/** A signed whole number with a real minus sign; an empty string for 0 when asked. */
export function signed(value: number, digits = 0): string {
  const text = Math.abs(value).toFixed(digits);
  if (Number(text) === 0) return text;
  return (value < 0 ? "−" : "+") + text;
}

/** Name with signed cents, e.g. F♯4 −12. */
export function pitchLabel(midi: number, flats: boolean): string {
  const cents = Math.floor((midi - Math.floor(midi + 0.5)) * 100 + 0.5);
  return cents === 0 ? pitchName(midi, flats) : `${pitchName(midi, flats)} ${signed(cents)}`;
}

/** Allowed whole pitches (MIDI, without the tuning offset) from low to high. */
export function scalePitches(key: KeyLike, low: number, high: number): number[] {
  const found = [];
  for (let midi = Math.ceil(low); midi <= high; midi++) {
    if (key.scale === "chromatic" || key.classes.includes(((midi % 12) + 12) % 12)) found.push(midi);
  }
  return found;
}

/** Step of the scale, from 1, that a pitch is on; 0 when it is outside. */
export function scaleDegree(midi: number, key: KeyLike): number {
  if (key.scale === "chromatic") return 0;
  const fromTonic = key.classes.map((c) => (c - key.tonic + 12) % 12).sort((a, b) => a - b);
  return fromTonic.indexOf((((Math.round(midi) - key.tonic) % 12) + 12) % 12) + 1;
}
