import { ApiError } from "../api/errors";
import { store } from "../document/store";

/** Run work whose failure is shown to the user; true when it went well. */
export async function report(work: () => Promise<unknown>, about?: string): Promise<boolean> {
  try {
    await work();
    return true;
  } catch (error) {
    say(describe(error, about), "trouble");
    return false;
  }
}

function describe(error: unknown, about?: string): string {
  const text = error instanceof ApiError || error instanceof Error ? error.message : "Something went wrong.";
  return about ? `${about}: ${text}` : text;
}

let timer: number | undefined;

/** Show a message; good news goes away by itself. */
export function say(text: string, kind: "trouble" | "done"): void {
  window.clearTimeout(timer);
  store.setState({ message: { text, kind } });
  if (kind === "done") timer = window.setTimeout(() => store.setState({ message: null }), 4000);
}
