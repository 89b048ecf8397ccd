/** Searching a track: words, pitches, flags and bars. */

import { hasFlag } from "../track/flags";
import type { NoteOut } from "../schema";
import { plainWord, type SungOn } from "./lyrics";

export interface Sought {
  note: NoteOut;
  sung: SungOn | undefined;
  /** its target as it is written, such as G♯4 */
  pitch: string;
  /** bar and beat, such as 16.2 */
  place: string;
}

const SIGNS: Record<string, string> = { "#": "♯", b: "♭" };

/** Whether a note is what was typed: “bar 16”, a pitch, the kind of a flag, “flag”, or what begins on it. */
export function matches({ note, sung, pitch, place }: Sought, typed: string): boolean {
  const text = typed.trim().toLowerCase();
  if (text === "") return false;
  const bar = /^bar\s*(\d+(?:\.\d+)?)$/.exec(text);
  if (bar) return place === bar[1] || place.startsWith(`${bar[1]}.`);
  if (text === "flag" || text === "flags") return hasFlag(note, null);
  if (hasFlag(note, text)) return true;
  if (/^[a-g][#b♯♭]?-?\d$/.test(text)) return pitch.toLowerCase() === written(text);
  return sung?.begins != null && sungText(sung, text);
}

function written(pitch: string): string {
  return pitch.replace(/(?<=^[a-g])[#b]/, (sign) => SIGNS[sign]!);
}

/** A whole word, from its first note on; words that begin so while it is typed; or a syllable. */
function sungText({ word, begins }: SungOn, text: string): boolean {
  const opens = begins!.part === 0;
  const words = word.split(" ").map(plainWord);
  return (opens && words.some((one) => one.startsWith(text))) || plainWord(begins!.text) === text;
}

/** The place in a list of found ones of the first after a moment, or before it; around the end. */
export function nextOf(starts: readonly number[], from_s: number, direction: 1 | -1): number {
  if (starts.length === 0) return -1;
  const after = starts.findIndex((start) => start > from_s + 1e-6);
  if (direction === 1) return after === -1 ? 0 : after;
  const before = starts.findLastIndex((start) => start < from_s - 1e-6);
  return before === -1 ? starts.length - 1 : before;
}
