/** Flags of notes: reasons to listen, the worst first. */

import type { NoteOut } from "../schema";

const NOTICED_CENTS = 8;

type Flagged = Pick<NoteOut, "flags" | "start_s" | "end_s" | "phrase">;

/** How a flag reads. */
export function flagText(flag: NoteOut["flags"][number]): string {
  return `${flag.kind}: ${flag.reason}`;
}

/** All flags of a note in words. */
export function flagsText(note: Flagged): string {
  return note.flags.map(flagText).join("; ");
}

/** Whether a note has a flag of a kind, or any when no kind is asked for. */
export function hasFlag(note: Flagged, kind: string | null): boolean {
  return note.flags.some((flag) => kind === null || flag.kind === kind);
}

/** How much a note hurts: its worst flag of a kind; 0 without. */
export function hurtOf(note: Flagged, kind: string | null = null): number {
  return Math.max(0, ...note.flags.filter((flag) => kind === null || flag.kind === kind).map((flag) => flag.hurt));
}

/** Notes with a flag of a kind, those that hurt most first. */
export function byHurt<T extends Flagged>(notes: readonly T[], kind: string | null): T[] {
  const marked = notes.filter((note) => hasFlag(note, kind));
  return marked.sort((a, b) => hurtOf(b, kind) - hurtOf(a, kind) || a.start_s - b.start_s);
}

/** Kinds of flags there are, with how many notes have each, the most frequent first. */
export function countKinds(notes: readonly Flagged[]): [string, number][] {
  const counts = new Map<string, number>();
  for (const note of notes) {
    for (const kind of new Set(note.flags.map((flag) => flag.kind))) counts.set(kind, (counts.get(kind) ?? 0) + 1);
  }
  return [...counts].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0]));
}

/** How far off this singer's notes usually are, as sung, and to which side all of them lean. */
export function singerText(usual_cents: number, lean_cents: number): string {
  const lean = Math.round(Math.abs(lean_cents));
  const side = lean >= NOTICED_CENTS ? `, all ${lean} ct ${lean_cents > 0 ? "sharp" : "flat"}` : "";
  return `Usually ±${Math.round(usual_cents)} ct as sung${side}`;
}

/** Seconds of phrases that are not marked done, and of all. */
export function leftToDo(phrases: readonly { start_s: number; end_s: number; done: boolean }[]): [number, number] {
  const lengths = phrases.map((phrase) => phrase.end_s - phrase.start_s);
  const sum = (values: number[]): number => values.reduce((total, value) => total + value, 0);
  return [sum(lengths.filter((_, i) => !phrases[i]!.done)), sum(lengths)];
}
