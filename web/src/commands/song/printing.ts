/** Prints of what is shown: made, listed, heard and taken away. */

import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { ApiError } from "../../api/errors";
import { inTrack, type Stretch } from "../../document/track/comp";
import type { PrintIn, PrintListOut, PrintsIn, PrintSummaryOut, TaskOut } from "../../document/schema";
import { type EditorState, store } from "../../document/track/store";
import { sourceToTrack } from "../../document/time/times";
import { report, say } from "../../session/report";

const LOOK_MS = 250;
const HAND_OFF = "Hand-off";

export interface Printed {
  trackId: string;
  step: string;
  name: string;
}

/** What would be printed in a state: the comp while it is shown, else the open version. */
export function printedIn({ content, comp, panel }: EditorState): Printed | null {
  if (!content) return null;
  const version = panel === "comp" && comp ? comp.version : content.version;
  return {
    trackId: content.track_id,
    step: version === comp?.version ? comp.step_id : content.step_id,
    name: version.name,
  };
}

/** The stretch that is selected in a state, in track seconds. */
export function stretchIn(state: EditorState): Stretch | null {
  const { content, selection, panel, compHere } = state;
  const { times } = state.view;
  if (panel === "comp") return compHere && inTrack(compHere, times);
  const chosen = content?.notes.filter((note) => selection.has(note.id)) ?? [];
  if (chosen.length === 0) return null;
  const ends = [Math.min(...chosen.map((n) => n.start_s)), Math.max(...chosen.map((n) => n.end_s))] as const;
  return { start_s: sourceToTrack(ends[0], times), end_s: sourceToTrack(ends[1], times) };
}

export function usePrintSummary(): PrintSummaryOut | null {
  const [summary, setSummary] = useState<PrintSummaryOut | null>(null);
  useEffect(() => {
    const shown = printedIn(store.getState());
    if (shown) void report(async () => setSummary(await api.printSummary(shown.trackId, shown.step)));
  }, []);
  return summary;
}

export interface PrintWork {
  share: number;
  /** finished ones with the names they are saved under */
  done: { url: string; name: string }[];
}

/** Print what is shown, or all vocals of the song, and follow the work until the files are there. */
export async function printFiles(
  wanted: PrintIn,
  all: Pick<PrintsIn, "one_length" | "mix"> | null,
  onWork: (work: PrintWork | null) => void,
): Promise<void> {
  const shown = printedIn(store.getState());
  const { song } = store.getState();
  if (!shown || !song) return;
  const fine = await report(async () => {
    onWork({ share: 0, done: [] });
    const asked = all
      ? (await api.printAll(song.id, { ...wanted, ...all })).tasks
      : [await api.print(shown.trackId, { ...wanted, step: shown.step })];
    let tasks: TaskOut[] = asked;
    while (tasks.some((task) => task.state === "waiting" || task.state === "running")) {
      onWork({ share: tasks.reduce((sum, task) => sum + task.share, 0) / tasks.length, done: [] });
      await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
      tasks = await Promise.all(asked.map((task) => api.task(task.id)));
    }
    const failed = tasks.find((task) => task.state !== "done");
    if (failed) throw new ApiError(failed.message, 422);
    const stuck = tasks.find((task) => task.result.trouble);
    if (stuck) say(`Printed, but not handed over: ${String(stuck.result.trouble)}`, "trouble", HAND_OFF);
    onWork({ share: 1, done: tasks.map((t) => ({ url: api.printUrl(t.id), name: String(t.result.shown_name) })) });
  });
  if (!fine) onWork(null);
}

export type PrintEntry = PrintListOut["prints"][number];

/** The finished prints of the song; null while they are asked for. */
export function usePrints(): [PrintEntry[] | null, () => void] {
  const [prints, setPrints] = useState<PrintEntry[] | null>(null);
  const load = (): void => {
    const { song } = store.getState();
    if (song) void report(async () => setPrints((await api.prints(song.id)).prints));
  };
  useEffect(load, []);
  return [prints, load];
}

/** Where a finished print is fetched from. */
export function printUrl(id: string): string {
  return api.printUrl(id);
}

/** Put a print into the hand-off folder, where that failed before. */
export async function handOverAgain(id: string): Promise<boolean> {
  return report(() => api.handOverAgain(id), HAND_OFF);
}

export async function removePrint(id: string): Promise<boolean> {
  return report(() => api.removePrint(id));
}

let sounding: HTMLAudioElement | null = null;

/** Hear a print; null stops it. */
export function hearPrint(id: string | null, onEnd: () => void): void {
  sounding?.pause();
  sounding = null;
  if (id === null) return;
  const audio = new Audio(api.printUrl(id));
  sounding = audio;
  audio.onended = onEnd;
  void report(() => audio.play());
}

/** Files that other programs take. */
export type OtherKind =
  | "melody.mid"
  | "melody.musicxml"
  | "notes.csv"
  | "notes.json"
  | "notes.txt"
  | "notes.TextGrid"
  | "contour.csv";

/** Where a file for other programs is fetched from. */
export function otherFile(of: Printed, kind: OtherKind, bend = 0): string {
  return api.otherFileUrl(of.trackId, kind, of.step, bend);
}
