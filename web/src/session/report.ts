import { ApiError } from "../api/errors";
import { store } from "../document/track/store";

/**
 * Run work whose failure is shown to the user, with a way to do it again where there is one; true when it went well.
 *
 * Going well, it takes away the message of trouble that was there when it began, if that had the same cause: what is
 * said meanwhile, by the work itself or by something else, stays.
 */
export async function report(
  work: () => Promise<unknown>,
  about = "",
  again?: () => void,
  cause = about,
): Promise<boolean> {
  const { message: shown } = store.getState();
  try {
    await work();
    if (store.getState().message === shown) mended(cause);
    return true;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") return false; // called off: nothing went wrong
    const refused = error instanceof ApiError && error.status === 409;
    say(describe(error, about), "trouble", cause, refused ? again : undefined);
    return false;
  }
}

function describe(error: unknown, about: string): string {
  const text = error instanceof ApiError || error instanceof Error ? error.message : "Something went wrong.";
  return about ? `${about}: ${text}` : text;
}

let timer: number | undefined;

/** Take away a message of trouble whose cause is gone. */
function mended(about: string): void {
  const { message } = store.getState();
  if (message?.kind === "trouble" && message.about === about) store.setState({ message: null });
}

/** What a message is about that says why nothing was changed: a change that goes well takes it away. */
export const CHANGE = "change";

/** What a message is about that asks for a selection. */
export const SELECTION = "selection";

store.subscribe((now, before) => {
  if (now.selection !== before.selection && now.selection.size > 0) mended(SELECTION);
});

/** Show a message; good news goes away by itself, trouble when what it is about goes well or the user closes it. */
export function say(text: string, kind: "trouble" | "done", about = CHANGE, again?: () => void): void {
  window.clearTimeout(timer);
  store.setState({ message: { text, kind, about, ...(again && { again }) } });
  if (kind === "done") timer = window.setTimeout(() => store.setState({ message: null }), 4000);
}
