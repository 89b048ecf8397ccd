/** Key and tuning of a song in a few words. */

import { placeText } from "./places";
import { signed } from "../music/pitch_names";
import type { KeysOut, SongOut } from "../schema";

/** The key, and how often it changes. */
export function songKey({ key_title, key_changes }: SongOut): string {
  if (key_changes.length === 0) return key_title;
  return `${key_title}, ${key_changes.length === 1 ? "1 change" : `${key_changes.length} changes`}`;
}

/** Reference pitch, and the tuning where it is not equal temperament. */
export function songTuning({ temperament, reference_name, reference_hz }: SongOut): string {
  const tuning = temperament.name === "equal" ? "" : `${temperament.title} · `;
  if (temperament.mapped) return `${temperament.title}, mapped`; // a mapping brings its own reference
  return `${tuning}${reference_name} ${Number(reference_hz.toFixed(2))} Hz`;
}

/** Every key, with the bar it begins in. */
export function keysInWords({ key_title, pitches }: SongOut): string {
  const later = (pitches?.keys ?? []).slice(1);
  return [key_title, ...later.map(({ title, bar, beat }) => `${title} from bar ${placeText({ bar, beat })}`)].join(
    ", ",
  );
}

const [SURE, LIKELY, WEAK] = [0.99, 0.9, 0.6];

/** At which tuning a voice sings on the whole, and how sure that is. */
export function sungWords(sung: Pick<KeysOut, "sung_cents" | "sung_certainty">): string {
  const cents = Math.round(sung.sung_cents);
  if (sung.sung_certainty < WEAK) return "At which tuning the take is sung cannot be told: its notes do not agree.";
  const hz = (440 * 2 ** (sung.sung_cents / 1200)).toFixed(1);
  const how = sung.sung_certainty >= SURE ? "surely" : sung.sung_certainty >= LIKELY ? "likely" : "weakly";
  return `The take is sung ${signed(cents)} cents from A4 = 440 Hz, at ${hz} Hz (${how}).`;
}
