/** What one user has set for every song, kept for the next visit. */

import type { LaneSizes } from "../document/track/model";
import { type Remembered, store } from "../document/track/store";

const KEY = "glass-thread-settings";
const NAMES = [
  "ownStrength",
  "leadIn_s",
  "hearsPresses",
  "strainLimit",
  "showsChords",
  "listFolded",
  "inspectorFolded",
  "laneSizes",
] as const;

/** Whether a value that was kept is one that can be taken for `before`. */
function fits(name: string, value: unknown, before: Remembered): boolean {
  if (name === "laneSizes") return isLanes(value);
  return NAMES.some((one) => one === name) && typeof value === typeof before[name as keyof Remembered];
}

function isLanes(value: unknown): boolean {
  if (typeof value !== "object" || value === null) return false;
  const { air, level }: Partial<LaneSizes> = value;
  return Number.isFinite(air) && (level === null || Number.isFinite(level));
}

/** Set something for every song, and keep it. */
export function remember(values: Partial<Remembered>): void {
  store.setState(values);
  const now = store.getState();
  localStorage.setItem(KEY, JSON.stringify(Object.fromEntries(NAMES.map((name) => [name, now[name]]))));
}

/** Take up what was set on an earlier visit, as far as it is of the right kind. */
export function recall(): void {
  const text = localStorage.getItem(KEY);
  if (text === null) return;
  try {
    const kept: unknown = JSON.parse(text);
    if (typeof kept !== "object" || kept === null) return;
    const before = store.getState();
    const right = Object.entries(kept).filter(([name, value]) => fits(name, value, before));
    store.setState(Object.fromEntries(right));
  } catch {
    localStorage.removeItem(KEY); // not ours, or cut off
  }
}
