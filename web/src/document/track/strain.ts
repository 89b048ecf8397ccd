/** What strain says of a voice as a whole, and which of its notes stand out of it. */

import type { NoteOut } from "./model";

const STRAINED = 50; // from which on a note is one to be sung again
const APART = 6; // over the middle one of a voice, from which a note stands out
const MOST = 6;

export interface VoiceStrain {
  /** how many notes are strained, of how many */
  strained: number;
  of: number;
  least: number;
  middle: number;
  most: number;
  /** strained notes well over the middle one, the worst first */
  apart: NoteOut[];
}

/** The strain of a voice; null without notes. */
export function voiceStrain(notes: readonly NoteOut[]): VoiceStrain | null {
  if (notes.length === 0) return null;
  const sorted = [...notes].sort((a, b) => b.strain - a.strain);
  const middle = sorted[sorted.length >> 1]!.strain;
  return {
    strained: sorted.filter((note) => note.strain >= STRAINED).length,
    of: sorted.length,
    least: Math.round(sorted.at(-1)!.strain),
    middle: Math.round(middle),
    most: Math.round(sorted[0]!.strain),
    apart: sorted.filter((note) => note.strain >= Math.max(STRAINED, middle + APART)).slice(0, MOST),
  };
}

/** In a sentence, what to expect of a voice. */
export function strainSentence({ strained, of, least, middle, most }: VoiceStrain): string {
  if (strained === 0) return `${of} notes, none strained.`;
  if (strained < of / 2) return `${strained} of ${of} notes are strained.`;
  return `Strain from ${least} to ${most}, in the middle ${middle}: alone it will sound processed; keep it low in the stack.`;
}
