/** Playback of the open song. */

import { api } from "../api/client";
import type { Listening, TrackOut } from "../document/track/model";
import { type EditorState, store, timesNow, trackOf } from "../document/track/store";
import { amplitudeOf } from "../document/music/levels";
import { linesAt } from "../document/music/pitch_names";
import { roundPitch } from "../document/music/rounding";
import { songToSource, sourceToSong, timesOf, trackToSong } from "../document/time/times";
import { isVocal } from "../document/track/vocals";
import type { Source } from "../playback/layer";
import { soundPitch } from "../playback/pitch_tone";
import { type Part, Transport } from "../playback/transport";
import { say } from "../session/report";

const PREVIEW = "preview-";

/** What a preview's sound is known by among the steps. */
export function previewName(id: string): string {
  return PREVIEW + id;
}

export const transport = new Transport((id, source, begin, end, ahead) => {
  const { at } = source;
  const moment = at === "" ? null : at.startsWith(PREVIEW) ? { preview: at.slice(PREVIEW.length) } : { step: at };
  return api.audio(id, source.kind, moment, begin, end, ahead);
});

transport.onEnd = () => store.setState({ playing: false });
transport.onTrouble = (error) => say(error instanceof Error ? error.message : "Playback failed.", "trouble");

const SUNG: Source = { kind: "sung", at: "" };

/** The sound that is listened to. */
export function sourceOf(state: EditorState, listening: Listening): Source {
  const here = state.content?.step_id ?? "";
  const tuned = (at: string | undefined | null): Source => (at ? { kind: "tuned", at } : { kind: "tuned", at: here });
  switch (listening) {
    case "sung":
      return SUNG;
    case "preview":
      return tuned(state.preview && previewName(state.preview.id));
    case "marked":
      return tuned(state.markedStep);
    case "comp":
      return tuned(state.comp?.step_id);
    case "version": {
      const version = state.versions.find((candidate) => candidate.id === state.heardVersion);
      return version?.kind === "as_sung" ? SUNG : tuned(version?.head_id);
    }
    default:
      return { kind: listening, at: here };
  }
}

/** Factor that brings what is listened to to the loudness of the open version; 1 unless that is asked for. */
function matchingGain(state: EditorState, source: Source): number {
  if (!state.matchLoudness || !state.content) return 1;
  const [wanted, own] = [state.content.step_id, source.at].map((step) => state.loudnessOf.get(step));
  return wanted === undefined || own === undefined ? 1 : amplitudeOf(wanted - own);
}

/** Whether a track sounds in the stack: it is not muted, or others are not heard alone; a backing has its own switch. */
export function isHeard(state: Pick<EditorState, "soloed" | "backing">, track: TrackOut): boolean {
  if (track.role === "backing") return state.backing && !track.muted;
  return state.soloed.size > 0 ? state.soloed.has(track.id) : !track.muted;
}

/** The open track while something is tried on it: as it would be, or as it is beside the voices that would be made. */
function triedParts(state: EditorState, own: Part): Part[] {
  const together = state.preview?.together;
  if (together?.kind !== "beside") return [{ ...own, source: sourceOf(state, "preview") }];
  const voices = together.voices.map((voice, i): Part => ({
    track: own.track,
    source: { kind: "tuned", at: previewName(voice.preview_id) },
    gain: own.gain * amplitudeOf(voice.level_db),
    pan: voice.pan,
    as: `voice ${i + 1}`,
  }));
  return [{ ...own, source: sourceOf(state, "tuned") }, ...voices];
}

/** What the stack has: every vocal as it is chosen there, or as sung, unless it is muted or others are heard alone. */
function stackParts(state: EditorState): Part[] {
  return (state.song?.tracks ?? []).flatMap((track): Part[] => {
    if (!isVocal(track) || !track.head_id || !isHeard(state, track)) return [];
    const source: Source = state.listening === "sung" ? SUNG : { kind: "tuned", at: track.head_id };
    const own = { track, source, gain: amplitudeOf(track.level_db), pan: track.pan };
    return state.listening === "preview" && track.id === state.trackId ? triedParts(state, own) : [own];
  });
}

function backingParts(state: EditorState): Part[] {
  return (state.song?.tracks ?? []).flatMap((track): Part[] => {
    if (track.role !== "backing" || !track.ready || !isHeard(state, track)) return [];
    return [{ track, source: SUNG, gain: amplitudeOf(state.backingLevel + track.level_db) }];
  });
}

/** The melody of the open track as a soft tone, when it is to be played along. */
function melodyParts(state: EditorState): Part[] {
  const track = trackOf(state);
  if (!track || !state.melodyAlong || !state.content) return [];
  const { at } = sourceOf(state, state.listening === "preview" ? "preview" : "tuned");
  return [{ track, source: { kind: "melody", at }, gain: 1 }];
}

/** What is to be heard now: in the stack all vocals, else the open track with the other vocals when they are on. */
export function partsNow(): Part[] {
  const state = store.getState();
  const more = [...melodyParts(state), ...backingParts(state)];
  if (state.panel === "stack") return [...stackParts(state), ...more];
  const track = trackOf(state);
  if (!track || !state.song) return [];
  const source = sourceOf(state, state.listening);
  const silent = state.soloed.size > 0 && state.others && !state.soloed.has(track.id);
  const together = state.listening === "preview" ? (state.preview?.together ?? null) : null;
  const placed = state.others || (together !== null && together.kind !== "alone");
  const level = placed ? amplitudeOf(track.level_db) : 1;
  const gain = silent ? 0 : level * matchingGain(state, source);
  const own = { track, source, gain, ...(placed && { pan: track.pan }) };
  const parts: Part[] = together ? triedParts(state, own) : [own];
  const alone = ["difference", "air", "notes"].includes(state.listening);
  if (alone) return parts;
  const tuned = { ...state, listening: "tuned" as const };
  const along = stackParts(tuned).filter(
    (part) =>
      part.track.id !== track.id && (state.others || (together?.kind === "with" && part.track.id === together.lead)),
  );
  parts.push(...along);
  return [...parts, ...more];
}

/** Where the song ends, in song seconds. */
export function songEnd(): number {
  const tracks = store.getState().song?.tracks ?? [];
  return Math.max(0, ...tracks.filter((t) => t.ready).map((t) => trackToSong(t.duration_s, timesOf(t))));
}

/** The stretch that loops: the selection, else the phrase at the cursor; song seconds. */
export function loopStretch(): { start_s: number; end_s: number } | null {
  const state = store.getState();
  const times = timesNow();
  const leadIn_s = state.leadIn_s;
  if (state.panel === "comp" && state.compHere) {
    const { start_s, end_s } = state.compHere;
    return { start_s: Math.max(0, start_s - leadIn_s), end_s };
  }
  const stretch = (from: number, to: number, before: number, after: number): { start_s: number; end_s: number } => ({
    start_s: sourceToSong(Math.max(0, from - before), times),
    end_s: sourceToSong(to, times) + after,
  });
  const chosen = state.content?.notes.filter((note) => state.selection.has(note.id)) ?? [];
  if (chosen.length > 0) {
    const start = Math.min(...chosen.map((n) => n.start_s));
    return stretch(start, Math.max(...chosen.map((n) => n.end_s)), leadIn_s, 0.25);
  }
  const air = state.content?.air.filter((event) => state.airSelection.has(event.id)) ?? [];
  if (air.length > 0) return stretch(air[0]!.start_s, air.at(-1)!.end_s, leadIn_s, 0.4);
  const level = state.content?.level_stretches.find((one) => one.id === state.stretchChosen);
  if (level) return stretch(level.start_s, level.end_s, leadIn_s, 0.25);
  const at = songToSource(state.cursor_s, times);
  const phrase = state.analysis?.phrases.find((p) => at < p.end_s) ?? state.analysis?.phrases.at(-1);
  return phrase ? stretch(phrase.start_s, phrase.end_s, 0.2, 0.2) : null;
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
    if (transport.phase === "idle") store.setState({ playing: false }); // there was nothing to play
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

/** Where playing would begin now, in song seconds. */
export function playStart(): number {
  const { loop, cursor_s } = store.getState();
  const stretch = loop ? loopStretch() : null;
  return stretch ? stretch.start_s : cursor_s >= songEnd() - 0.05 ? 0 : cursor_s;
}

/** Where hearing the selection would begin; null when there is nothing to hear. */
export function hearingStart(): number | null {
  return loopStretch()?.start_s ?? null;
}

export function togglePlay(): void {
  if (store.getState().playing) return stop();
  void play(playStart());
}

/** Hear the selection once, from a little before. */
export function hearSelection(): void {
  const stretch = loopStretch();
  if (stretch) void play(stretch.start_s, store.getState().loop ? undefined : stretch.end_s);
}

const PRESSED_GAIN = 0.6;

/** Sound a stretch of the open track alone and softly, as it is listened to; seconds of the recording. */
export function hearPress(start_s: number, end_s: number): void {
  const state = store.getState();
  const track = trackOf(state);
  if (!state.hearsPresses || state.playing || !track) return;
  const part = { track, source: sourceOf(state, state.listening), gain: PRESSED_GAIN };
  transport.loop = null;
  const [from, to] = [start_s, end_s].map((at) => sourceToSong(at, state.view.times));
  transport.play([part], from!, to!).catch(transport.onTrouble);
}

/** A press that became a drag is silent. */
export function hushPress(): void {
  if (!store.getState().playing) transport.stop();
}

/** Sound a pitch once and softly. */
export function soundMidi(midi: number): void {
  soundPitch(440 * 2 ** ((midi - 69) / 12)).catch(transport.onTrouble);
}

/** Sound the allowed pitch nearest to a MIDI number, once and softly. */
export function soundNearest(midi: number): void {
  const { song, view } = store.getState();
  if (!song) return;
  soundMidi(roundPitch(midi, linesAt(song, view.start_s), "scale"));
}

export function listenTo(listening: Listening): void {
  store.setState({ listening });
  applyListening();
}

/** Hear the other vocals of the song along, each as it stands and where it is placed. */
export function setOthers(others: boolean): void {
  store.setState({ others });
  applyListening();
}

/** Play the open track's melody along as a soft tone. */
export function setMelodyAlong(melodyAlong: boolean): void {
  store.setState({ melodyAlong });
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
