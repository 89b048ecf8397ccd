/** Tune passes by name. */

import { api } from "../api/client";
import type { TunePassIn, TunePassOut } from "../document/schema";
import { store } from "../document/store";
import { report } from "./report";

export interface PassSettings {
  pull: number;
  drift: number;
  vibrato: number;
  rounding: TunePassIn["rounding"];
  beyond_cents: number;
  keep_edited: boolean;
}

export async function loadPasses(): Promise<TunePassOut[]> {
  let passes: TunePassOut[] = [];
  await report(async () => {
    passes = (await api.tunePasses()).passes;
  });
  return passes;
}

export async function savePass(name: string, settings: PassSettings): Promise<TunePassOut[] | null> {
  let passes: TunePassOut[] | null = null;
  await report(async () => {
    passes = (await api.saveTunePass({ name, ...settings })).passes;
  });
  return passes;
}

/** What a pass acts on: the selection, else the phrase in view, else the whole track, with the words for it. */
export function passReach(whole: boolean): { ids: string[]; words: string } {
  const { document, selection, view } = store.getState();
  const notes = document?.notes ?? [];
  if (!whole && selection.size > 0) {
    const count = notes.filter((note) => selection.has(note.id)).length;
    return { ids: [...selection], words: count === 1 ? "the selected note" : `the ${count} selected notes` };
  }
  if (!whole) {
    const middle = (view.start_s + view.end_s) / 2;
    const near = notes.find((note) => note.end_s > middle) ?? notes.at(-1);
    const phrase = notes.filter((note) => note.phrase === near?.phrase);
    const words = `phrase ${(near?.phrase ?? 0) + 1}, ${phrase.length} notes, as nothing is selected`;
    return { ids: phrase.map((note) => note.id), words };
  }
  return { ids: notes.map((note) => note.id), words: `the whole track, ${notes.length} notes` };
}
