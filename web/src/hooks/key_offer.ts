/** Offering a key for a song that has none: what the track sounds like, one press takes it, none is forced. */

import { api } from "../api/client";
import type { KeyOut } from "../document/schema";
import { store } from "../document/store";
import { report } from "./report";
import { changeSong } from "./songs";

/** Ask what the open track sounds like; it may take a moment when there is a backing. */
export async function loadKeys(trackId: string): Promise<void> {
  await report(async () => {
    const keys = await api.keys(trackId);
    if (store.getState().trackId === trackId) store.setState({ keys });
  }, "The key"); // its going well mends nothing else that is being said meanwhile
}

export function takeKey(key: Pick<KeyOut, "tonic" | "scale">): void {
  void changeSong({ tonic: key.tonic, scale: key.scale });
}

/** Tune the song to where the track was sung. */
export function takeReference(hz: number): void {
  void changeSong({ reference_hz: Math.round(10 * hz) / 10 });
}

/** Work without a key: every semitone keeps its line. */
export function takeNoKey(): void {
  void changeSong({ tonic: 0, scale: "chromatic" });
}

/** Do not offer a key for the open song again while the page is open. */
export function offerLater(): void {
  const { song, keyLater } = store.getState();
  if (song) store.setState({ keyLater: new Set([...keyLater, song.id]) });
}
