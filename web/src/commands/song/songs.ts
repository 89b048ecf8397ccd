/** Songs and tracks: load, bring in, change. */

import { api } from "../../api/client";
import { ApiError } from "../../api/errors";
import type { SongChangeIn, TaskOut } from "../../document/schema";
import { beyond, keptWhereAlike } from "../../document/track/song_order";
import { type CutOffFile, type SendingFile, store } from "../../document/track/store";
import { changeOpenSong, settled } from "../../session/changes";
import { report, say } from "../../session/report";

const SAVED_MS = 60_000; // by then the browser has begun to save it

/** How often songs were asked for, and for which of these times they are shown. */
const listing = { asked: 0, shown: 0 };

/** Show the songs as they stand; an answer that a later one has overtaken is not shown. */
export async function loadSongs(): Promise<void> {
  const own = ++listing.asked;
  await report(async () => {
    await settled(); // what was asked for in the editor is told here
    const asked = store.getState().progress;
    const { songs } = await api.songs();
    if (own < listing.shown) return;
    listing.shown = own;
    const { songs: before, progress } = store.getState();
    store.setState({ songs: keptWhereAlike(before ?? [], songs), progress: beyond(songs, progress, asked) });
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

/** The ending of a song that is packed into one file. */
export const ARCHIVE = ".gtsong";

function isArchive(file: File): boolean {
  return file.name.toLowerCase().endsWith(ARCHIVE);
}

/** Pack a song into a file and have it saved. */
export async function packSong(id: string, title: string): Promise<void> {
  await report(async () => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(await api.packed(id));
    link.download = `${title}${ARCHIVE}`;
    link.click();
    window.setTimeout(() => URL.revokeObjectURL(link.href), SAVED_MS);
  });
}

/** Unpack songs, one after the other. */
export async function unpackSongs(files: File[]): Promise<void> {
  for (const file of files) {
    await report(async () => {
      const song = await api.unpack(file);
      say(`“${song.title}” is unpacked.`, "done");
    }, file.name);
    await loadSongs();
  }
}

/** Bring files in one after the other; a file that fails does not stop the others, and one that is cut off is asked about. */
export async function bringIn(songId: string, all: File[], role: string | null): Promise<void> {
  await unpackSongs(all.filter(isArchive));
  const files = all.filter((file) => !isArchive(file));
  const own = files.map((file): SendingFile => ({ songId, file, stage: "waiting" }));
  store.setState({ sending: [...store.getState().sending, ...own] });
  for (const file of files) {
    markSending(file, "sending");
    await report(async () => {
      try {
        const { told } = await api.importFile(songId, file, role, false);
        if (told) say(told, "trouble", file.name);
      } catch (error) {
        if (!(error instanceof ApiError && error.reason === "cut off")) throw error;
        store.setState({ cutOff: [...store.getState().cutOff, { songId, file, role }] });
      }
    }, file.name);
    markSending(file, null);
    await loadSongs();
  }
}

/** Say how far a file on its way is; null when it has arrived or failed. */
function markSending(file: File, stage: SendingFile["stage"] | null): void {
  const sending = store.getState().sending.flatMap((one) => {
    if (one.file !== file) return [one];
    return stage ? [{ ...one, stage }] : [];
  });
  store.setState({ sending });
}

/** Put the tracks of a song into an order; shown at once, kept by the server. */
export async function orderTracks(songId: string, ids: string[]): Promise<void> {
  const songs = store.getState().songs ?? [];
  const moved = songs.map((song) => {
    const tracks = ids.flatMap((id) => song.tracks.find((track) => track.id === id) ?? []);
    return song.id === songId ? { ...song, tracks } : song;
  });
  store.setState({ songs: moved });
  await report(() => api.orderTracks(songId, ids));
  await loadSongs();
}

/** Leave a file that is cut off, or take it as far as it goes. */
export async function settleCutOff(one: CutOffFile, take: boolean): Promise<void> {
  store.setState({ cutOff: store.getState().cutOff.filter((other) => other !== one) });
  if (!take) return;
  await report(() => api.importFile(one.songId, one.file, one.role, true), one.file.name);
  await loadSongs();
}

export function changeSong(values: SongChangeIn): Promise<boolean> {
  return changeOpenSong(({ id }) => api.changeSong(id, values));
}

export async function cancelTask(task: TaskOut): Promise<void> {
  await report(() => api.cancelTask(task.id));
  await loadSongs();
}

export async function forgetTask(task: TaskOut): Promise<void> {
  await report(() => api.forgetTask(task.id));
  await loadSongs();
}

/** Make a song named after the first recording and bring all of them into it; packed songs are unpacked. */
export async function bringInAsSong(all: File[]): Promise<void> {
  await unpackSongs(all.filter(isArchive));
  const files = all.filter((file) => !isArchive(file));
  if (files.length === 0) return;
  const title = files[0]!.name.replace(/\.[^.]*$/, "") || "Untitled";
  const id = await createSong(title);
  if (id) await bringIn(id, files, null);
}
