/** Whether this browser has to sign in, and as whom it has. */

import { useEffect, useState } from "react";
import { api, SIGNED_OUT } from "../api/client";
import type { SignedInOut } from "../document/schema";

/** True once the server has asked for a code. */
export function useStranger(): boolean {
  const [stranger, setStranger] = useState(false);
  useEffect(() => {
    const leave = (): void => setStranger(true);
    window.addEventListener(SIGNED_OUT, leave);
    return () => window.removeEventListener(SIGNED_OUT, leave);
  }, []);
  return stranger;
}

/** Who this browser is signed in as; null while that is asked for. */
export function useSignedIn(): SignedInOut | null {
  const [state, setState] = useState<SignedInOut | null>(null);
  useEffect(() => {
    api.signedIn().then(setState, () => undefined); // the list of songs says what is wrong
  }, []);
  return state;
}
