/** Words on notes: what each note begins, and the word that is sung on it. */

import type { NoteOut, SyllableOut } from "../schema";

export interface SungOn {
  /** what begins with the note, with a hyphen where the word goes on with a later one; empty where it is held on */
  text: string;
  /** the whole word that is sung on it */
  word: string;
  /** the first syllable that begins with it; none where it is held on */
  begins: SyllableOut | null;
}

type Phrased = Pick<NoteOut, "id" | "phrase">;

let last: { notes: readonly Phrased[]; syllables: readonly SyllableOut[]; sung: Map<string, SungOn> } | null = null;

/** What is sung on each note, by its id; notes of phrases without words are left out.  The same map for the same two. */
export function sungOn(notes: readonly Phrased[], syllables: readonly SyllableOut[]): Map<string, SungOn> {
  if (last?.notes !== notes || last.syllables !== syllables) last = { notes, syllables, sung: laid(notes, syllables) };
  return last.sung;
}

function laid(notes: readonly Phrased[], syllables: readonly SyllableOut[]): Map<string, SungOn> {
  const begun = new Map<string, SyllableOut[]>();
  for (const one of syllables) begun.set(one.note_id, [...(begun.get(one.note_id) ?? []), one]);
  const found = new Map<string, SungOn>();
  let held: { phrase: number; word: string } | null = null;
  for (const { id, phrase } of notes) {
    const here = begun.get(id);
    if (here) {
      const word = here
        .filter((one, i) => i === 0 || one.part === 0)
        .map((one) => one.word)
        .join(" ");
      found.set(id, { text: textOf(here), word, begins: here[0]! });
      held = { phrase, word: here.at(-1)!.word };
    } else if (held?.phrase === phrase) found.set(id, { text: "", word: held.word, begins: null });
  }
  return found;
}

function textOf(here: readonly SyllableOut[]): string {
  const text = here.map((one, i) => (one.part === 0 && i > 0 ? ` ${one.text}` : one.text)).join("");
  const end = here.at(-1)!;
  return end.part + 1 < end.count && !text.endsWith("-") ? `${text}-` : text;
}

/** A word without the marks around it, in small letters, as two places of it have it in common. */
export function plainWord(word: string): string {
  const found = /[\p{L}\p{M}]+(?:['’][\p{L}\p{M}]+)*['’]?/u.exec(word.replaceAll("·", ""));
  return (found?.[0] ?? word).toLowerCase();
}

/** The syllables of the word that one of them is of, in order. */
export function wordOf(syllables: readonly SyllableOut[], one: SyllableOut): SyllableOut[] {
  const first = one.place - one.part;
  return syllables.filter(({ phrase, place }) => phrase === one.phrase && place >= first && place < first + one.count);
}
