/** Songs and tracks: load, bring in, change. */

import { api } from "../api/client";
import type { SongChangeIn, TaskOut } from "../document/schema";
import { store } from "../document/store";
import { report } from "./report";

export async function loadSongs(): Promise<void> {
  await report(async () => {
    const { songs } = await api.songs();
    store.setState({ songs });
  });
}

export async function createSong(title: string): Promise<string | null> {
  let id: string | null = null;
  await report(async () => {
    const song = await api.createSong(title);
    id = song.id;
    await loadSongs();
  });
  return id;
}

export async function removeSong(id: string): Promise<void> {
  await report(() => api.removeSong(id));
  await loadSongs();
}

/** Bring files in one after the other; a file that fails does not stop the others. */
export async function bringIn(songId: string, files: File[], role: string): Promise<void> {
  for (const file of files) {
    await report(() => api.importFile(songId, file, role), file.name);
    await loadSongs();
  }
}

export async function changeSong(values: SongChangeIn): Promise<boolean> {
  const { song, content } = store.getState();
  if (!song) return false;
  return report(async () => {
    store.setState({ song: await api.changeSong(song.id, values) });
    if (content) store.setState({ content: await api.content(content.track_id) });
  });
}

export async function cancelTask(task: TaskOut): Promise<void> {
  await report(() => api.cancelTask(task.id));
  await loadSongs();
}

export async function forgetTask(task: TaskOut): Promise<void> {
  await report(() => api.forgetTask(task.id));
  await loadSongs();
}

/** Make a song named after the first file and bring all of them into it. */
export async function bringInAsSong(files: File[]): Promise<void> {
  const title = files[0]!.name.replace(/\.[^.]*$/, "") || "Untitled";
  const id = await createSong(title);
  if (id) await bringIn(id, files, "lead");
}
