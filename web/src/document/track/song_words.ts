/** Key and tuning of a song in a few words. */

import { placeText } from "./places";
import type { SongOut } from "../schema";

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
