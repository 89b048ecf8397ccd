/** Keeping a window level with what others do to the song. */

import { store } from "../../document/track/store";
import { afterChanges } from "../../session/changes";
import { listenToNews, type News, songMoved, trackMoved } from "../../session/news";
import { refresh, refreshSong } from "../notes/editing";
import { leaveWhatIsGone } from "./tracks";

/** Follow what other windows do to a song; returns what ends it. */
export function followSong(songId: string): () => void {
  let latest: News | null = null;
  return listenToNews(songId, (news) => {
    latest = news;
    // After the changes of this window that are on their way: their answers say how things stand too.
    void afterChanges(async () => {
      if (latest !== news || store.getState().song?.id !== songId) return;
      if (songMoved(news)) await refreshSong();
      if (leaveWhatIsGone()) return;
      const { trackId } = store.getState();
      if (trackId && trackMoved(news)) await refresh(trackId);
    });
  });
}
