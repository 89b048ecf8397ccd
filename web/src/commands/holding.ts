/** A key that is held: its edit is seen and heard as it grows, and is one step when the key is let go. */

import type { Operation } from "../document/track/model";
import { edit } from "./notes/editing";
import { afterChanges } from "../session/changes";
import { perSession } from "../session/editor_session";
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

/** The key that is held in one session. */
class HeldKey {
  private held: Held | null = null;
  /** what a held key amounts to is shown, until its step is there */
  private shows = false;

  press(event: KeyboardEvent, times: (count: number) => Operation): void {
    if (event.repeat && this.held?.code === event.code) {
      this.held.count += 1;
      this.held.trying ??= this.follow(this.held);
      return;
    }
    this.letGo();
    this.held = { code: event.code, count: 1, tried: 1, trying: null, times };
  }

  letGo(code?: string): void {
    if (!this.held || (code !== undefined && this.held.code !== code)) return;
    const { count, times, trying } = this.held;
    this.held = null;
    if (trying) void afterChanges(() => trying);
    // What was shown last stays until the step is there, or that of a key that was pressed meanwhile.
    void edit(times(count)).then(() => {
      if (!this.shows || this.held) return;
      this.shows = false;
      dropPreview();
    });
  }

  /** Try what the key amounts to by now; one request at a time, the last value in the end. */
  private async follow(one: Held): Promise<void> {
    while (this.held === one && one.tried !== one.count) {
      one.tried = one.count;
      this.shows = true;
      await tryOut(one.times(one.count));
    }
    one.trying = null;
  }
}

const heldKey = perSession(() => new HeldKey());

/** A press, or its repetition, of a key that edits; `times` says what so many presses amount to. */
export function holdEdit(event: KeyboardEvent, times: (count: number) => Operation): void {
  heldKey().press(event, times);
}

/** The key, or any key, is let go: what it amounts to becomes a step. */
export function letGo(code?: string): void {
  heldKey().letGo(code);
}
