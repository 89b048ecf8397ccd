/** Coming in from another machine, and going out again. */

import { api } from "../api/client";
import { report } from "../session/report";

const IN_ADDRESS = "#sign-in=";

/** Sign in with a code and begin anew; the sentence that says why not. */
export async function signIn(code: string): Promise<string> {
  try {
    await api.signIn(code);
  } catch (error) {
    return error instanceof Error ? error.message : "Something went wrong.";
  }
  location.reload();
  return "";
}

/** Sign in with the code that the address has, which is taken out of it. */
export function signInByAddress(): void {
  if (!location.hash.startsWith(IN_ADDRESS)) return;
  const code = decodeURIComponent(location.hash.slice(IN_ADDRESS.length));
  history.replaceState(null, "", location.pathname);
  void signIn(code);
}

export async function signOut(): Promise<void> {
  if (await report(() => api.signOut())) location.reload();
}
