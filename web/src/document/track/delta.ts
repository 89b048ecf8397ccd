/** What an edit changed, laid into what is on screen. */

import type { Content, Delta } from "./model";
import { withAnchors } from "../time/times";

interface Item {
  id: string;
}

function merged<T extends Item>(
  old: readonly T[],
  changed: readonly T[],
  gone: ReadonlySet<string>,
  place: (item: T) => number,
): T[] {
  if (changed.length === 0 && !old.some((item) => gone.has(item.id))) return old as T[];
  const now = new Map(changed.map((item) => [item.id, item]));
  const kept = old.filter((item) => !gone.has(item.id)).map((item) => now.get(item.id) ?? item);
  const known = new Set(kept.map((item) => item.id));
  const all = [...kept, ...changed.filter((item) => !known.has(item.id))];
  return all.sort((a, b) => place(a) - place(b));
}

const startOf = (item: { start_s: number }): number => item.start_s;

/** The content after a change. */
export function withDelta(content: Content, delta: Delta, at: Pick<Content, "step_id" | "version">): Content {
  const gone = new Set(delta.gone);
  return {
    ...content,
    ...at,
    notes: merged(content.notes, delta.notes, gone, startOf),
    air: merged(content.air, delta.air, gone, startOf),
    gaps: merged(content.gaps, delta.gaps, gone, startOf),
    pins: merged(content.pins, delta.pins, gone, (pin) => pin.at_s),
    glazes: merged(content.glazes, delta.glazes, gone, startOf),
    borrows: merged(content.borrows, delta.borrows, gone, startOf),
    links: merged(content.links, delta.links, gone, () => 0),
    level_stretches: merged(content.level_stretches, delta.level_stretches, gone, startOf),
    times: { ...withAnchors(content.times, delta.times) } as Content["times"],
  };
}
