/** What an edit changed, laid into what is on screen. */

import type { Content, Delta } from "./model";

interface Item {
  id: string;
  start_s: number;
}

function merged<T extends Item>(old: readonly T[], changed: readonly T[], gone: ReadonlySet<string>): T[] {
  if (changed.length === 0 && !old.some((item) => gone.has(item.id))) return old as T[];
  const now = new Map(changed.map((item) => [item.id, item]));
  const kept = old.filter((item) => !gone.has(item.id)).map((item) => now.get(item.id) ?? item);
  const known = new Set(kept.map((item) => item.id));
  const all = [...kept, ...changed.filter((item) => !known.has(item.id))];
  return all.sort((a, b) => a.start_s - b.start_s);
}

/** The content after a change. */
export function withDelta(content: Content, delta: Delta, at: Pick<Content, "step_id" | "version">): Content {
  const gone = new Set(delta.gone);
  return {
    ...content,
    ...at,
    notes: merged(content.notes, delta.notes, gone),
    air: merged(content.air, delta.air, gone),
    gaps: merged(content.gaps, delta.gaps, gone),
  };
}

/** Frame ranges brought together so that there are at most `most`. */
export function fewRanges(ranges: readonly { first: number; last: number }[], most: number): [number, number][] {
  const sorted = ranges.map((range): [number, number] => [range.first, range.last]).sort((a, b) => a[0] - b[0]);
  while (sorted.length > most) {
    let least = 1;
    for (let i = 2; i < sorted.length; i++)
      if (sorted[i]![0] - sorted[i - 1]![1] < sorted[least]![0] - sorted[least - 1]![1]) least = i;
    sorted[least - 1]![1] = sorted[least]![1];
    sorted.splice(least, 1);
  }
  return sorted;
}
