/** Rows of the stack: one a track, all of one height. */

const LOWEST = 78; // what is said of a track beside it needs as much
const HIGHEST = 120;

/** The height of each of `count` rows where all together have `height`. */
export function stackRow(height: number, count: number): number {
  return Math.min(HIGHEST, Math.max(LOWEST, Math.floor(height / Math.max(1, count))));
}

const ROOM = 1; // semitones above and below what is sung
const LEAST_SPAN = 14; // so that a line of few notes does not fill its row

/** Lowest and highest pitch of a row: what is sung, with room around. */
export function pitchesOf(notes: readonly { midi: number }[]): [number, number] {
  if (notes.length === 0) return [60 - LEAST_SPAN / 2, 60 + LEAST_SPAN / 2];
  const low = Math.min(...notes.map((note) => note.midi)) - ROOM;
  const high = Math.max(...notes.map((note) => note.midi)) + ROOM;
  const more = Math.max(0, LEAST_SPAN - (high - low)) / 2;
  return [low - more, high + more];
}
