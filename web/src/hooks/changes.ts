/** Changes run one after the other: each is answered, and on screen, before the next one is sent. */

import { api } from "../api/client";
import { store } from "../document/store";
import { report } from "./report";

let last: Promise<unknown> = Promise.resolve();

/** Resolves when every change asked for so far has been answered. */
export function settled(): Promise<unknown> {
  return last;
}

/** Do something with the server after every change asked for so far. */
export function afterChanges(work: () => Promise<unknown>): Promise<boolean> {
  const next = last.then(() => report(work));
  last = next;
  return next;
}

/** Take the content of the open track anew, as after a change of its song: its sound and its curves stay. */
export function readContentAgain(): Promise<boolean> {
  return afterChanges(async () => {
    const { content } = store.getState();
    if (!content) return;
    const now = await api.content(content.track_id, content.version.id);
    if (store.getState().content?.version.id === now.version.id) store.setState({ content: now });
  });
}
