/** The values of a gesture as they are shown and typed: label, unit, range, and the factor from stored to shown. */

import type { NoteOut } from "./model";

export type ValueName =
  | "pull"
  | "within_cents"
  | "movement"
  | "lean_in"
  | "drift"
  | "vibrato"
  | "scoop"
  | "fall"
  | "lean_out"
  | "glide_ms"
  | "glide_bend"
  | "level_db"
  | "formant_shift"
  | "added_extent"
  | "added_rate_hz"
  | "added_onset_ms"
  | "added_level";

export interface ValueSpec {
  name: ValueName;
  label: string;
  unit: string;
  min: number;
  max: number;
  step: number;
  /** shown = stored × scale */
  scale: number;
  /** shown value that changes nothing */
  rest: number;
  /** shown values under this one are as sung, and stored as none */
  least?: number;
}

/** What is shown for a value that is as sung and has no number. */
export const AS_SUNG = "as sung";

const row = (
  name: ValueName,
  label: string,
  unit: string,
  [min, max]: [number, number],
  step: number,
  rest: number,
  scale = 1,
): ValueSpec => ({ name, label, unit, min, max, step, scale, rest });

export const VALUES: Record<ValueName, ValueSpec> = {
  pull: row("pull", "Pull", "%", [0, 100], 1, 0, 100),
  within_cents: row("within_cents", "Within", "ct", [0, 100], 1, 0),
  movement: row("movement", "Movement", "%", [0, 200], 1, 100, 100),
  scoop: row("scoop", "Scoop", "%", [0, 200], 1, 100, 100),
  fall: row("fall", "Fall", "%", [0, 200], 1, 100, 100),
  lean_in: row("lean_in", "Lean in", "ct", [-300, 300], 1, 0),
  drift: row("drift", "Drift", "%", [0, 200], 1, 100, 100),
  vibrato: row("vibrato", "Vibrato", "%", [0, 300], 1, 100, 100),
  lean_out: row("lean_out", "Lean out", "ct", [-300, 300], 1, 0),
  glide_ms: { ...row("glide_ms", "Glide", "ms", [0, 400], 5, 0), least: 10 },
  glide_bend: row("glide_bend", "Bend", "%", [-100, 100], 5, 0, 100),
  level_db: row("level_db", "Level", "dB", [-24, 12], 0.5, 0),
  formant_shift: row("formant_shift", "Formant", "st", [-12, 12], 0.1, 0),
  added_extent: row("added_extent", "Extent", "± ct", [0, 200], 1, 0),
  added_rate_hz: row("added_rate_hz", "Rate", "Hz", [3, 9], 0.1, 5.5),
  added_onset_ms: row("added_onset_ms", "Onset", "ms", [0, 3000], 10, 250),
  added_level: row("added_level", "Swell", "dB", [0, 6], 0.1, 0),
};

/** The values of a sung note, left to right as the note runs. */
export const NOTE_ROWS: ValueName[] = [
  "pull",
  "within_cents",
  "movement",
  "drift",
  "vibrato",
  "scoop",
  "fall",
  "glide_ms",
  "glide_bend",
  "level_db",
];

/** Values that are set less often. */
export const FURTHER_ROWS: ValueName[] = ["lean_in", "lean_out", "formant_shift"];

/** The strip at the note has all but the bend, which the handle at the join sets. */
export const STRIP: ValueName[] = NOTE_ROWS.filter((name) => name !== "glide_bend");

/** The values of a vibrato put onto the note. */
export const ADDED_ROWS: ValueName[] = ["added_extent", "added_rate_hz", "added_onset_ms", "added_level"];

/** What is read of all notes when it is the same for all, or null. */
export function shared<T>(notes: NoteOut[], read: (note: NoteOut) => T): T | null {
  const first = notes[0];
  if (!first) return null;
  const value = read(first);
  return notes.every((note) => read(note) === value) ? value : null;
}

/** The value all notes share as it is shown, or null when they differ. */
export function sharedValue(notes: NoteOut[], spec: ValueSpec): number | null {
  const first = notes[0];
  if (!first) return null;
  const value = first.gesture[spec.name];
  if (!notes.every((note) => note.gesture[spec.name] === value)) return null;
  return value === null ? spec.rest : Math.round(value * spec.scale * 1000) / 1000;
}

/** The value to store for a shown one; null is as sung. */
export function storedValue(shown: number, spec: ValueSpec): number | null {
  return spec.least !== undefined && shown < spec.least ? null : shown / spec.scale;
}

export function valueText(value: number, spec: ValueSpec): string {
  if (spec.least !== undefined && value < spec.least) return AS_SUNG;
  return `${String(Math.round(value * 100) / 100).replace("-", "−")} ${spec.unit}`;
}

/** What was typed: an absolute value, “as sung”, or “by 5” and “by −5” for a change from where each note is. */
export function readTyped(typed: string): { value: number; relative: boolean } | null {
  const text = typed.trim().replaceAll("−", "-").replace(",", ".");
  if (/^(as )?sung$/i.test(text)) return { value: 0, relative: false };
  const relative = /^by\b/i.test(text);
  const value = Number.parseFloat(relative ? text.slice(2) : text);
  return Number.isFinite(value) ? { value, relative } : null;
}
