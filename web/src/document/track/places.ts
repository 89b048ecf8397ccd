/** Places of the song by bar and beat, both from 1, as they are typed: “9” or “9.3”. */

export interface Place {
  bar: number;
  beat?: number;
}

export function placeText({ bar, beat = 1 }: Place): string {
  return beat > 1 ? `${bar}.${Math.round(100 * beat) / 100}` : `${bar}`;
}

/** A typed place; null when it is none. */
export function readPlace(typed: string): Required<Place> | null {
  const found = /^\s*(\d+)(?:\.(\d+(?:\.\d+)?))?\s*$/.exec(typed);
  return found && { bar: Number(found[1]), beat: Number(found[2] ?? 1) };
}

/** The order in which places come. */
export function byPlace(a: Place, b: Place): number {
  return a.bar - b.bar || (a.beat ?? 1) - (b.beat ?? 1);
}
