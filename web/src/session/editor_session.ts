/** What belongs to one opened track: its queue of changes and the questions about it. It ends when another is opened. */

import type { Base } from "../api/client";
import { store } from "../document/track/store";

export class EditorSession {
  private readonly leaving = new AbortController();
  private readonly owned = new Map<object, unknown>();
  /** what changes that were asked for before the end go on from */
  private left: { trackId: string; base: Base } | null = null;

  /** @param queue resolves when every change of the sessions before has been answered */
  constructor(private queue: Promise<unknown> = Promise.resolve()) {}

  /** Aborts when the session ends. */
  get ends(): AbortSignal {
    return this.leaving.signal;
  }

  get over(): boolean {
    return this.ends.aborted;
  }

  /** The track, and the version and step of it that the next change is made on. */
  get standing(): { trackId: string; base: Base } | null {
    if (this.over) return this.left;
    const { content } = store.getState();
    return content && { trackId: content.track_id, base: { version_id: content.version.id, base: content.step_id } };
  }

  /** A change that was asked for before the end was answered. */
  movedOn(base: Base): void {
    if (this.left) this.left = { ...this.left, base };
  }

  /** Resolves when every change asked for so far has been answered. */
  settled(): Promise<unknown> {
    return this.queue;
  }

  /** Do something after every change asked for so far; `work` answers whether it went well and never fails. */
  after(work: () => Promise<boolean>): Promise<boolean> {
    const next = this.queue.then(work);
    this.queue = next;
    return next;
  }

  /** What one part of the program keeps for this session, made when it is first asked for. */
  own<T>(make: (session: EditorSession) => T): T {
    if (!this.owned.has(make)) this.owned.set(make, make(this));
    return this.owned.get(make) as T;
  }

  end(): void {
    this.left = this.standing;
    this.leaving.abort();
  }
}

let current = new EditorSession();

/** The session of the open track. */
export function editorSession(): EditorSession {
  return current;
}

/** End the session: what is opened next begins with nothing asked, held or queued. */
export function beginSession(): void {
  current.end();
  current = new EditorSession(current.settled());
}

/** Something that each session has its own of. */
export function perSession<T>(make: (session: EditorSession) => T): () => T {
  return () => current.own(make);
}
