/** What one user has set for every song, kept for the next visit. */

import { type Remembered, store } from "../document/track/store";

const KEY = "glass-thread-settings";
const NAMES = ["ownStrength", "leadIn_s", "hearsPresses", "strainLimit", "listFolded", "inspectorFolded"] as const;

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
    const fits = Object.entries(kept).filter(
      ([name, value]) => NAMES.some((one) => one === name) && typeof value === typeof before[name as keyof Remembered],
    );
    store.setState(Object.fromEntries(fits));
  } catch {
    localStorage.removeItem(KEY); // not ours, or cut off
  }
}
