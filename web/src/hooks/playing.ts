/** Playback of the open song. */

import { api } from "../api/client";
import type { Listening } from "../document/model";
import { store, trackOf } from "../document/store";
import { type Part, Transport } from "../playback/transport";
import { say } from "./report";

export const transport = new Transport((id, kind, begin, end) =>
  api.audio(id, kind, begin, end, store.getState().markedStep),
);
const PRE_ROLL_S = 0.7;

transport.onEnd = () => store.setState({ playing: false });
transport.onTrouble = (error) => say(error instanceof Error ? error.message : "Playback failed.", "trouble");

/** What is to be heard now: the open track, and the backing when it is on. */
export function partsNow(): Part[] {
  const state = store.getState();
  const track = trackOf(state);
  if (!track || !state.song) return [];
  const parts: Part[] = [{ track, kind: state.listening, gain: 1 }];
  const alone = ["difference", "air", "notes"].includes(state.listening);
  if (state.backing && !alone) {
    for (const other of state.song.tracks) {
      if (other.role !== "backing" || !other.ready || other.muted) continue;
      parts.push({ track: other, kind: "sung", gain: 10 ** ((state.backingLevel + other.level_db) / 20) });
    }
  }
  return parts;
}

function songEnd(): number {
  const tracks = store.getState().song?.tracks ?? [];
  return Math.max(0, ...tracks.filter((t) => t.ready).map((t) => t.offset_s + t.duration_s));
}

/** The stretch that loops: the selection, else the phrase at the cursor; song seconds. */
export function loopStretch(): { start_s: number; end_s: number } | null {
  const state = store.getState();
  const offset = trackOf(state)?.offset_s ?? 0;
  const chosen = state.content?.notes.filter((note) => state.selection.has(note.id)) ?? [];
  if (chosen.length > 0) {
    const start = Math.min(...chosen.map((n) => n.start_s));
    const end = Math.max(...chosen.map((n) => n.end_s));
    return { start_s: Math.max(0, start - PRE_ROLL_S) + offset, end_s: end + 0.25 + offset };
  }
  const air = state.content?.air.filter((event) => state.airSelection.has(event.id)) ?? [];
  if (air.length > 0) {
    const start = Math.max(0, air[0]!.start_s - PRE_ROLL_S);
    return { start_s: start + offset, end_s: air.at(-1)!.end_s + 0.4 + offset };
  }
  const at = state.cursor_s - offset;
  const phrase = state.analysis?.phrases.find((p) => at < p.end_s) ?? state.analysis?.phrases.at(-1);
  return phrase ? { start_s: Math.max(0, phrase.start_s - 0.2) + offset, end_s: phrase.end_s + 0.2 + offset } : null;
}

export function applyListening(): void {
  transport.loop = store.getState().loop ? loopStretch() : null;
  transport.setParts(partsNow());
}

export async function play(from_s: number, end_s = songEnd()): Promise<void> {
  transport.loop = store.getState().loop ? loopStretch() : null;
  store.setState({ playing: true, cursor_s: from_s });
  try {
    await transport.play(partsNow(), from_s, end_s);
  } catch (error) {
    store.setState({ playing: false });
    transport.onTrouble(error);
  }
}

export function stop(): void {
  if (transport.playing) store.setState({ cursor_s: transport.position });
  transport.stop();
  store.setState({ playing: false });
}

export function togglePlay(): void {
  const { playing, loop, cursor_s } = store.getState();
  if (playing) return stop();
  const stretch = loop ? loopStretch() : null;
  void play(stretch ? stretch.start_s : cursor_s >= songEnd() - 0.05 ? 0 : cursor_s);
}

/** Hear the selection once, from a little before. */
export function hearSelection(): void {
  const stretch = loopStretch();
  if (stretch) void play(stretch.start_s, store.getState().loop ? undefined : stretch.end_s);
}

export function listenTo(listening: Listening): void {
  store.setState({ listening });
  applyListening();
}

export function setBacking(values: { backing?: boolean; backingLevel?: number }): void {
  store.setState(values);
  applyListening();
}

export function setLoop(loop: boolean): void {
  store.setState({ loop });
  applyListening();
}
