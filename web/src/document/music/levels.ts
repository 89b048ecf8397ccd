/** Decibels as factors. */

/** The factor on an amplitude that a level in dB stands for. */
export function amplitudeOf(db: number): number {
  return 10 ** (db / 20);
}
