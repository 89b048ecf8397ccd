/** Tune passes and settings of glazes by name. */

import { api } from "../../api/client";
import type { GlazePresetOut, TunePassIn, TunePassOut } from "../../document/schema";
import { useReach } from "./reach";
import { report } from "../../session/report";

export interface PassSettings {
  pull: number;
  within_cents: number;
  movement: number;
  scoop: number;
  fall: number;
  drift: number;
  vibrato: number;
  rounding: TunePassIn["rounding"];
  beyond_cents: number;
  keep_edited: boolean;
}

/** The settings of a named pass. */
export function settingsOf(pass: TunePassOut): PassSettings {
  const { name: _name, hint: _hint, shipped: _shipped, rounding, ...settings } = pass;
  return { ...settings, rounding: rounding === "semitone" ? "semitone" : "scale" };
}

export async function loadPasses(): Promise<TunePassOut[]> {
  let passes: TunePassOut[] = [];
  await report(async () => {
    passes = (await api.tunePasses()).passes;
  });
  return passes;
}

export async function loadGlazePresets(): Promise<GlazePresetOut[]> {
  let presets: GlazePresetOut[] = [];
  await report(async () => {
    presets = (await api.glazePresets()).presets;
  });
  return presets;
}

export async function savePass(name: string, settings: PassSettings): Promise<TunePassOut[] | null> {
  let passes: TunePassOut[] | null = null;
  await report(async () => {
    passes = (await api.saveTunePass({ name, ...settings })).passes;
  });
  return passes;
}

/** What a tune pass acts on: the selection, else the phrase in view, or the whole track, with the words for it. */
export function usePassReach(whole: boolean): { ids: string[]; words: string } {
  const none = { noteIds: [], words: "no notes" };
  const chosen = useReach(whole ? "track" : "selection");
  const { noteIds, words } = useReach("phrase") ?? none;
  if (chosen && (whole || chosen.noteIds.length > 0)) return { ids: chosen.noteIds, words: chosen.words };
  return { ids: noteIds, words: `${words}, as nothing is selected` };
}
