/** Changes run one after the other: each is answered, and on screen, before the next one is sent. */

import { api } from "../api/client";
import type { SongOut } from "../document/schema";
import { store } from "../document/track/store";
import { editorSession } from "./editor_session";
import { CHANGE, report } from "./report";

/** Resolves when every change asked for so far has been answered. */
export function settled(): Promise<unknown> {
  return editorSession().settled();
}

/**
 * Do something with the server after every change of the open track asked for so far; what was refused because others
 * changed the same can be done `again`.
 */
export function afterChanges(work: () => Promise<unknown>, again?: () => void): Promise<boolean> {
  return editorSession().after(() => report(work, "", again, CHANGE));
}

/**
 * Change the open song, as it stands once all that was asked for before is answered; what that makes of the open track's
 * notes is read after it, their sound and curves stay.
 */
export async function changeOpenSong(send: (song: SongOut) => Promise<SongOut>): Promise<boolean> {
  const asked = store.getState().song;
  if (!asked) return false;
  const open = (): SongOut | null => {
    const { song } = store.getState();
    return song?.id === asked.id ? song : null;
  };
  const went = await afterChanges(async () => {
    const song = await send(open() ?? asked);
    if (open()) store.setState({ song });
  });
  return went && readContentAgain();
}

/** Read what the open track's notes are judged to be under the song as it stands now. */
export function readContentAgain(): Promise<boolean> {
  return afterChanges(async () => {
    const { content } = store.getState();
    if (!content) return;
    const now = await api.content(content.track_id, content.version.id);
    if (store.getState().content?.version.id === now.version.id) store.setState({ content: now });
  });
}
