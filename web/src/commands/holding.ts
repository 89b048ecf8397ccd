/** A key that is held: its edit is seen and heard as it grows, and is one step when the key is let go. */

import type { Operation } from "../document/track/model";
import { edit } from "./notes/editing";
import { afterChanges } from "../session/changes";
import { dropPreview, tryOut } from "./notes/previewing";

interface Held {
  code: string;
  /** how often the key has acted by now */
  count: number;
  /** the count that is tried or shown */
  tried: number;
  trying: Promise<void> | null;
  /** what so many presses amount to */
  times: (count: number) => Operation;
}

let held: Held | null = null;
/** what a held key amounts to is shown, until its step is there */
let shows = false;

/** Try what the key amounts to by now; one request at a time, the last value in the end. */
async function follow(one: Held): Promise<void> {
  while (held === one && one.tried !== one.count) {
    one.tried = one.count;
    shows = true;
    await tryOut(one.times(one.count));
  }
  one.trying = null;
}

/** A press, or its repetition, of a key that edits; `times` says what so many presses amount to. */
export function holdEdit(event: KeyboardEvent, times: (count: number) => Operation): void {
  if (event.repeat && held?.code === event.code) {
    held.count += 1;
    held.trying ??= follow(held);
    return;
  }
  letGo();
  held = { code: event.code, count: 1, tried: 1, trying: null, times };
}

/** The key, or any key, is let go: what it amounts to becomes a step. */
export function letGo(code?: string): void {
  if (!held || (code !== undefined && held.code !== code)) return;
  const { count, times, trying } = held;
  held = null;
  if (trying) void afterChanges(() => trying);
  // What was shown last stays until the step is there, or that of a key that was pressed meanwhile.
  void edit(times(count)).then(() => {
    if (!shows || held) return;
    shows = false;
    dropPreview();
  });
}
