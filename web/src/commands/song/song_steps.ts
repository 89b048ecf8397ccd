/** The steps of the open song: listed, taken back, done again. */

import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { SongMovedOut, SongStepOut } from "../../document/schema";
import { store } from "../../document/track/store";
import { applyListening } from "../../listening/playing";
import { afterChanges, readContentAgain } from "../../session/changes";
import { report, say } from "../../session/report";
import { useEditor } from "../../session/useStore";
import { refreshOpen } from "../notes/editing";
import { leaveWhatIsGone } from "./tracks";

/** The steps of the open song, newest first; null until they are known. */
export function useSongSteps(): SongStepOut[] | null {
  const song = useEditor((s) => s.song?.id);
  const turn = useEditor((s) => s.song?.turn);
  const [found, setFound] = useState<{ song: string; steps: SongStepOut[] } | null>(null);
  useEffect(() => {
    if (!song) return;
    void report(async () => setFound({ song, steps: (await api.songSteps(song)).steps }), "Steps of the song");
  }, [song, turn]);
  return found && found.song === song ? found.steps : null;
}

/** What undo would take back, and redo would do again. */
export function aheadIn(steps: readonly SongStepOut[]): { undo: SongStepOut | null; redo: SongStepOut | null } {
  const undo = steps.find((step) => step.state === "done") ?? null;
  const since = steps.filter((step) => step.state === "undone" && step.number > (undo?.number ?? 0));
  return { undo, redo: since.at(-1) ?? null };
}

async function moveNow(send: (songId: string) => Promise<SongMovedOut>, words: string): Promise<void> {
  const { song } = store.getState();
  if (!song) return;
  const moved = await send(song.id);
  if (store.getState().song?.id !== song.id) return;
  store.setState({ song: moved.song });
  applyListening();
  if (leaveWhatIsGone()) return;
  await refreshOpen(moved.tracks);
  say(`${words}: ${moved.label}.`, "done");
  void readContentAgain();
}

/** Take back the last step of the song, at the turn of whoever asks. */
export function undoSongNow(): Promise<void> {
  return moveNow(api.undoSong, "Taken back");
}

export function redoSongNow(): Promise<void> {
  return moveNow(api.redoSong, "Done again");
}

/** Take back the last step of the song after every change asked for so far. */
export function undoSong(): Promise<boolean> {
  return afterChanges(undoSongNow);
}

export function redoSong(): Promise<boolean> {
  return afterChanges(redoSongNow);
}
