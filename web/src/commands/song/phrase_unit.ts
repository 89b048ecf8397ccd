/** A phrase as a unit: chosen whole, heard, and where playing begins. */

import type { NoteOut } from "../../document/track/model";
import { store, timesNow } from "../../document/track/store";
import { sourceToSong, songToSource } from "../../document/time/times";
import { hearSelection } from "../../listening/playing";
import { selectedNotes } from "../notes/editing";
import { showPhrase } from "./opening";

function notesOf(phrases: ReadonlySet<number>): NoteOut[] {
  return store.getState().content?.notes.filter((note) => phrases.has(note.phrase)) ?? [];
}

/** Choose the notes of a phrase, or of one more, and put the play position before them. */
export function choosePhrase(index: number, { more = false } = {}): void {
  const phrases = new Set([index, ...(more ? selectedNotes().map((note) => note.phrase) : [])]);
  const chosen = notesOf(phrases);
  showPhrase(index);
  const first = chosen[0];
  store.setState({
    selection: new Set(chosen.map((note) => note.id)),
    airSelection: new Set(),
    ...(first && !store.getState().playing
      ? { cursor_s: Math.max(0, sourceToSong(first.start_s, timesNow()) - store.getState().leadIn_s) }
      : {}),
  });
}

/** Choose a phrase by a press, and hear it. */
export function pressPhrase(index: number, more: boolean): void {
  choosePhrase(index, { more });
  if (store.getState().hearsPresses) hearSelection();
}

/** Choose the phrase before or after the chosen ones, or take it along. */
export function stepPhraseOfSheet(step: 1 | -1, more: boolean): void {
  const { analysis, cursor_s, view } = store.getState();
  const phrases = analysis?.phrases ?? [];
  const chosen = selectedNotes();
  const from = step > 0 ? chosen.at(-1) : chosen[0];
  const at = songToSource(cursor_s, view.times);
  const here = from
    ? phrases.findIndex((phrase) => phrase.index === from.phrase) + step
    : phrases.findIndex((phrase) => phrase.end_s > at);
  const next = phrases[here];
  if (next) choosePhrase(next.index, { more });
}
