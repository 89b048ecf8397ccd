/** For measuring from outside: the samples that would be heard, through the page's own layers and ramps. */

import type { Listening } from "../document/model";
import { store, trackOf } from "../document/store";
import { transport } from "./playing";

declare global {
  interface Window {
    glassThread?: {
      heard: (
        kind: Listening,
        from_s: number,
        to_s: number,
        change?: { kind: Listening; at_s: number },
      ) => Promise<number[]>;
    };
  }
}

export function exposeHeard(): void {
  window.glassThread = {
    async heard(kind, from_s, to_s, change) {
      const track = trackOf(store.getState());
      return track ? Array.from(await transport.heard([{ track, kind, gain: 1 }], from_s, to_s, change)) : [];
    },
  };
}
