/** Questions of which the newest alone counts. */

/** A question that is asked again and again: asking calls the one before off, and so does the end of what owns it. */
export class Question {
  private asked: AbortController | null = null;

  constructor(private readonly owner: AbortSignal | null = null) {}

  /** Ask; the signal tells when nobody waits for the answer any more. */
  ask(): AbortSignal {
    this.callOff();
    this.asked = new AbortController();
    if (this.owner?.aborted) this.asked.abort();
    this.owner?.addEventListener("abort", () => this.callOff(), { signal: this.asked.signal });
    return this.asked.signal;
  }

  callOff(): void {
    this.asked?.abort();
    this.asked = null;
  }
}
