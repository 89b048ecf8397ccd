/** Changes run one after the other: each is answered, and on screen, before the next one is sent. */

import { api } from "../api/client";
import type { SongOut } from "../document/schema";
import { store } from "../document/track/store";
import { editorSession } from "./editor_session";
import { report } from "./report";

/** Resolves when every change asked for so far has been answered. */
export function settled(): Promise<unknown> {
  return editorSession().settled();
}

/**
 * Do something with the server after every change of the open track asked for so far; what was refused because others
 * changed the same can be done `again`.
 */
export function afterChanges(work: () => Promise<unknown>, again?: () => void): Promise<boolean> {
  return editorSession().after(() => report(work, undefined, again));
}

/** Change the open song; what that makes of the open track's notes is read after it, their sound and curves stay. */
export async function changeOpenSong(send: (songId: string) => Promise<SongOut>): Promise<boolean> {
  const { song } = store.getState();
  if (!song) return false;
  return (await report(async () => store.setState({ song: await send(song.id) }))) && readContentAgain();
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
