/** Songs and tracks: load, bring in, change. */

import { api } from "../api/client";
import { ApiError } from "../api/errors";
import { useEffect, useState } from "react";
import type { KeyChangeOut, KeyIn, SongChangeIn, SongOut, TaskOut } from "../document/schema";
import { type CutOffFile, type SendingFile, store } from "../document/store";
import { report } from "./report";
import { useEditor } from "./useStore";

let turn = 0;
let shownTurn = 0;

/** Show the songs as they stand; an answer that a later one has overtaken is not shown. */
export async function loadSongs(): Promise<void> {
  const own = ++turn;
  await report(async () => {
    const { songs } = await api.songs();
    if (own < shownTurn) return;
    shownTurn = own;
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

/** Bring files in one after the other; a file that fails does not stop the others, and one that is cut off is asked about. */
export async function bringIn(songId: string, files: File[], role: string): Promise<void> {
  const own = files.map((file): SendingFile => ({ songId, file, stage: "waiting" }));
  store.setState({ sending: [...store.getState().sending, ...own] });
  for (const file of files) {
    markSending(file, "sending");
    await report(async () => {
      try {
        await api.importFile(songId, file, role, false);
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

export async function changeSong(values: SongChangeIn): Promise<boolean> {
  const { song, content } = store.getState();
  if (!song) return false;
  return report(async () => {
    store.setState({ song: await api.changeSong(song.id, values) });
    if (content) store.setState({ content: await api.content(content.track_id, content.version.id) });
  });
}

/** Take the last change of key and tuning back. */
export async function putKeyBack(): Promise<boolean> {
  const { song, content } = store.getState();
  if (!song) return false;
  return report(async () => {
    store.setState({ song: await api.keyBack(song.id) });
    if (content) store.setState({ content: await api.content(content.track_id, content.version.id) });
  });
}

/** What another key or tuning would mean, in words; empty while it is the song's own, or when it cannot be one. */
export function useKeyChange(key: KeyIn): string {
  const song = useEditor((s) => s.song);
  const asked = JSON.stringify(key);
  const [told, setTold] = useState({ asked: "", words: "" });
  useEffect(() => {
    const later = window.setTimeout(() => {
      const wanted = JSON.parse(asked) as KeyIn;
      if (!song || sameKey(wanted, song)) return setTold({ asked, words: "" });
      void api.keyPreview(song.id, wanted).then(
        (change) => setTold({ asked, words: keyWords(change) }),
        () => setTold({ asked, words: "" }),
      );
    }, 200);
    return () => window.clearTimeout(later);
  }, [asked, song]);
  return told.asked === asked ? told.words : "";
}

function sameKey(key: KeyIn, song: SongOut): boolean {
  const classes = key.scale !== "custom" || JSON.stringify(key.classes) === JSON.stringify(song.classes);
  return key.tonic === song.tonic && key.scale === song.scale && key.reference_hz === song.reference_hz && classes;
}

function keyWords(change: KeyChangeOut): string {
  const notes = (n: number): string => (n === 1 ? "1 note" : `${n} notes`);
  const elsewhere =
    change.tuned_elsewhere > 0 ? `; tuned now, ${change.tuned_elsewhere} of them would go elsewhere` : "";
  const tuned =
    change.tuned === 0 ? "No note is tuned yet." : `${notes(change.tuned)} tuned: all stay where they are${elsewhere}.`;
  return `${tuned} ${notes(change.untuned_moved)} not tuned yet get another target. “Put the key back” undoes it.`;
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
