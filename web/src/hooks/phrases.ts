import { useMemo } from "react";
import { centsOff, type NoteOut } from "../document/model";
import { store, trackOf } from "../document/store";
import { songToSource } from "../document/times";
import { changeSong } from "./songs";
import { useEditor } from "./useStore";

export interface PhraseRow {
  index: number;
  start_s: number;
  words: string;
  notes: number;
  flags: number;
  worst: NoteOut | undefined;
  done: boolean;
  current: boolean;
}

function doneEntry(index: number): string {
  return `${store.getState().trackId ?? ""}:${index}`;
}

export function usePhrases(): PhraseRow[] {
  const content = useEditor((s) => s.content);
  const analysis = useEditor((s) => s.analysis);
  const song = useEditor((s) => s.song);
  const role = useEditor((s) => trackOf(s)?.role);
  const view = useEditor((s) => s.view);
  const middle = songToSource((view.start_s + view.end_s) / 2, view.times);
  return useMemo(() => {
    if (!content || !analysis || !song) return [];
    return analysis.phrases.map((phrase) => {
      const notes = content.notes.filter((note) => note.phrase === phrase.index);
      const flagged = notes.filter((note) => note.flags.length > 0);
      const byError = [...(flagged.length ? flagged : notes)].sort(
        (a, b) => Math.abs(centsOff(b)) - Math.abs(centsOff(a)),
      );
      return {
        index: phrase.index,
        start_s: phrase.start_s,
        words: role === "lead" ? (song.words[String(phrase.index)] ?? "") : "",
        notes: notes.length,
        flags: flagged.length,
        worst: byError[0],
        done: song.done.includes(doneEntry(phrase.index)),
        current: middle >= phrase.start_s - 0.3 && middle <= phrase.end_s + 0.3,
      };
    });
  }, [content, analysis, song, role, middle]);
}

export function toggleDone(index: number): void {
  const { song } = store.getState();
  if (!song) return;
  const entry = doneEntry(index);
  const done = song.done.includes(entry) ? song.done.filter((m) => m !== entry) : [...song.done, entry];
  void changeSong({ done });
}
