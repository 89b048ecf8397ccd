import { useMemo } from "react";
import { api } from "../../api/client";
import { byHurt } from "../../document/track/flags";
import { centsOff, type NoteOut } from "../../document/track/model";
import { store, trackOf } from "../../document/track/store";
import { songToSource, sourceToSong } from "../../document/time/times";
import { afterChanges, changeOpenSong } from "../../session/changes";
import { useEditor } from "../../session/useStore";

export interface PhraseRow {
  index: number;
  start_s: number;
  end_s: number;
  words: string;
  /** the marker it lies after */
  section: string;
  notes: number;
  spoken: boolean;
  flags: number;
  worst: NoteOut | undefined;
  done: boolean;
  current: boolean;
}

function doneEntry(index: number): string {
  return `${store.getState().trackId ?? ""}:${index}`;
}

function phraseRow(notes: NoteOut[]): Pick<PhraseRow, "notes" | "spoken" | "flags" | "worst"> {
  const flagged = notes.filter((note) => note.flags.length > 0);
  const furthest = notes.reduce<NoteOut | undefined>(
    (most, note) => (most && Math.abs(centsOff(most)) >= Math.abs(centsOff(note)) ? most : note),
    undefined,
  );
  return {
    notes: notes.length,
    spoken: notes.length > 0 && notes.every((note) => note.spoken),
    flags: flagged.length,
    worst: byHurt(flagged, null)[0] ?? furthest,
  };
}

export function usePhrases(): PhraseRow[] {
  const all = useEditor((s) => s.content?.notes);
  const analysis = useEditor((s) => s.analysis);
  const song = useEditor((s) => s.song);
  const words = useEditor((s) => trackOf(s)?.words);
  const view = useEditor((s) => s.view);
  const middle = songToSource((view.start_s + view.end_s) / 2, view.times);
  const sung = useMemo(() => {
    const byPhrase = new Map(analysis?.phrases.map((phrase): [number, NoteOut[]] => [phrase.index, []]));
    for (const note of all ?? []) byPhrase.get(note.phrase)?.push(note);
    return analysis?.phrases.map((phrase) => ({ ...phrase, ...phraseRow(byPhrase.get(phrase.index) ?? []) }));
  }, [all, analysis]);
  return useMemo(() => {
    if (!sung || !song) return [];
    const middleOf = (phrase: { start_s: number; end_s: number }): number =>
      sourceToSong((phrase.start_s + phrase.end_s) / 2, view.times);
    return sung.map((phrase) => ({
      ...phrase,
      words: words?.[String(phrase.index)] ?? "",
      section: song.markers.findLast((marker) => marker.at_s <= middleOf(phrase))?.text ?? "",
      done: song.done.includes(doneEntry(phrase.index)),
      current: middle >= phrase.start_s - 0.3 && middle <= phrase.end_s + 0.3,
    }));
  }, [sung, song, words, middle, view.times]);
}

/** The words of the open track, one line a phrase. */
export function wordsText(): string {
  const { analysis } = store.getState();
  const words = trackOf(store.getState())?.words ?? {};
  const lines = (analysis?.phrases ?? []).map((phrase) => words[String(phrase.index)] ?? "");
  return lines.join("\n").trimEnd();
}

/** Give the phrases of the open track the lines of a text, in order. */
export async function setWords(text: string): Promise<boolean> {
  const { song, trackId, analysis } = store.getState();
  if (!song || !trackId || !analysis) return false;
  const lines = text.split("\n");
  const words = Object.fromEntries(analysis.phrases.map((phrase, i) => [String(phrase.index), lines[i]?.trim() ?? ""]));
  return afterChanges(async () => {
    const track = await api.changeTrack(trackId, { words });
    const now = store.getState().song;
    if (now) store.setState({ song: { ...now, tracks: now.tracks.map((one) => (one.id === track.id ? track : one)) } });
  });
}

/** The language of the song's words; empty to have it guessed from them. */
export function setLanguage(language: string): Promise<boolean> {
  return changeOpenSong(({ id }) => api.changeSong(id, { language }));
}

export function toggleDone(index: number): void {
  const entry = doneEntry(index);
  void changeOpenSong(({ id, done }) =>
    api.changeSong(id, { done: done.includes(entry) ? done.filter((mark) => mark !== entry) : [...done, entry] }),
  );
}
