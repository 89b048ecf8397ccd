/** What other windows do to the open song, as the server tells it. */

import { api } from "../api/client";
import { store } from "../document/track/store";

export interface News {
  turn: number;
  /** the head of every version, by track and version */
  heads: Record<string, Record<string, string>>;
}

/**
 * Listen to a song while its page is in sight; `told` gets how it stands, at first and whenever that changes.  A page
 * that nobody sees does not listen, as a browser has few connections for all of its pages.
 */
export function listenToNews(songId: string, told: (news: News) => void): () => void {
  let source: EventSource | null = null;
  const follow = (): void => {
    if (document.hidden) {
      source?.close();
      source = null;
    } else if (!source) {
      source = new EventSource(api.newsUrl(songId));
      source.onmessage = (event: MessageEvent<string>) => told(JSON.parse(event.data) as News);
    }
  };
  follow();
  document.addEventListener("visibilitychange", follow);
  return () => {
    document.removeEventListener("visibilitychange", follow);
    source?.close();
  };
}

/** Whether a song stands elsewhere than it is shown. */
export function songMoved({ turn }: News): boolean {
  const { song } = store.getState();
  return song !== null && song.turn !== turn;
}

/** Whether the open version stands elsewhere than it is shown. */
export function trackMoved({ heads }: News): boolean {
  const { content } = store.getState();
  const head = content && heads[content.track_id]?.[content.version.id];
  return Boolean(head) && head !== content!.step_id;
}
