/** The hand-off folder of the open song. */

import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { HandoffFoldersOut, HandoffOut } from "../../document/schema";
import { store } from "../../document/track/store";
import { afterChanges } from "../../session/changes";
import { report, say } from "../../session/report";

export type Handoff = HandoffOut;

/** The folders there are and how the song's stands; null until they are known. */
export function useHandoff(): { folders: HandoffFoldersOut | null; state: Handoff | null; look: () => void } {
  const [folders, setFolders] = useState<HandoffFoldersOut | null>(null);
  const [state, setState] = useState<Handoff | null>(null);
  const look = (): void => {
    const { song } = store.getState();
    if (!song) return;
    void report(async () => {
      const [known, now] = await Promise.all([api.handoffFolders(), api.handoff(song.id)]);
      setFolders(known);
      setState(now);
    });
  };
  useEffect(look, []);
  return { folders, state, look };
}

async function onSong(work: (songId: string) => Promise<unknown>): Promise<boolean> {
  const { song } = store.getState();
  if (!song) return false;
  return afterChanges(async () => {
    await work(song.id);
    const now = await api.song(song.id);
    if (store.getState().song?.id === song.id) store.setState({ song: now });
  });
}

/** Link the song with a folder, a new one when `make`, or with none. */
export function linkFolder(folder: string | null, make = false): Promise<boolean> {
  return onSong((songId) => api.linkHandoff(songId, { folder, make }));
}

/** Bring files in; they appear among the song's tracks when they are analysed. */
export function bringIn(files: string[]): Promise<boolean> {
  return onSong(async (songId) => {
    await api.bringIn(songId, files);
    say(`${files.join(", ")}: on the way into the song; the tracks are there in a moment.`, "done");
  });
}

export function takeTempo(file: string): Promise<boolean> {
  return onSong((songId) => api.handoffTempo(songId, file));
}
