/** Words on notes: asked for when they may be others, and said by hand. */

import { api } from "../../api/client";
import { type SungOn, sungOn } from "../../document/lyrics/lyrics";
import type { BetterOut, NoteOut, SayIn, SyllableOut } from "../../document/schema";
import { type EditorState, store, trackOf } from "../../document/track/store";
import { asText } from "../../session/as_text";
import { afterChanges } from "../../session/changes";
import { report } from "../../session/report";
import { selectedNotes } from "../notes/editing";
import { redoSongNow, undoSongNow } from "../song/song_steps";

const NO_NOTES: readonly NoteOut[] = [];

/** What is sung on each note of the open track. */
export function sungNow(): Map<string, SungOn> {
  const { content, syllables } = store.getState();
  return sungOn(content?.notes ?? NO_NOTES, syllables);
}

const cutOf = new WeakMap<readonly NoteOut[], string>();

/** Where notes are cut, in one text; the same one as long as only what is asked of them changes. */
function cuts(notes: readonly NoteOut[]): string {
  const known = cutOf.get(notes);
  if (known !== undefined) return known;
  const text = notes.map((note) => `${note.id} ${note.start_s} ${note.phrase}`).join();
  cutOf.set(notes, text);
  return text;
}

/** All that says which syllables lie where: while that is the same, so are they. */
export function wordsAbout(state: EditorState): string {
  const track = trackOf(state);
  const words = asText(track?.words);
  if (!track || !state.content || words === "{}") return "";
  return [track.id, state.song?.language, words, asText(track.laid), cuts(state.content.notes)].join();
}

/** Ask for the syllables of the open track as it stands. */
export async function loadSyllables(): Promise<void> {
  const state = store.getState();
  const { trackId, content } = state;
  if (!trackId || !content) return;
  const about = wordsAbout(state);
  await report(async () => {
    const { syllables, language, languages } = await api.syllables(trackId, content.step_id);
    if (wordsAbout(store.getState()) !== about) return; // it was asked for anew meanwhile
    store.setState({ syllables, language, languages, syllablesFor: about });
  }, "The words");
}

type WhatIsSaid = Partial<SayIn> & Pick<SayIn, "type">;

/**
 * Say something of words after every change asked for so far: `what` is asked at its turn, when all of them are on
 * screen, so that keys pressed faster than they are answered go on from each other. Null says nothing.
 */
function say(what: () => WhatIsSaid | null): Promise<boolean> {
  const { trackId } = store.getState();
  return afterChanges(async () => {
    const said = store.getState().trackId === trackId ? what() : null;
    if (!trackId || !said) return;
    const { syllables, laid, turn } = await api.saySyllables(trackId, said);
    const state = store.getState();
    const { song, content } = state;
    if (state.trackId !== trackId || !song || !content) return;
    const tracks = song.tracks.map((track) => (track.id === trackId ? { ...track, laid } : track));
    const wordsSaid = { done: 1 + (lastSaid(state)?.done ?? 0), undone: 0, turn, step: content.step_id };
    const now = { syllables, wordsSaid, song: { ...song, tracks, turn } };
    store.setState({ ...now, syllablesFor: wordsAbout({ ...state, ...now }) });
  });
}

type Said = Pick<EditorState, "wordsSaid" | "song" | "content">;

/** What was said of words last, as long as nothing else was done to song and track since. */
function lastSaid({ wordsSaid, song, content }: Said): EditorState["wordsSaid"] {
  return wordsSaid?.turn === song?.turn && wordsSaid?.step === content?.step_id ? wordsSaid : null;
}

/** Whether undo takes back something that was said of words. */
export function canUndoWords(state: Said): boolean {
  return (lastSaid(state)?.done ?? 0) > 0;
}

export function canRedoWords(state: Said): boolean {
  return (lastSaid(state)?.undone ?? 0) > 0;
}

async function moveWordsNow(by: 1 | -1, go: () => Promise<void>): Promise<void> {
  const said = lastSaid(store.getState());
  store.setState({ wordsSaid: null });
  await go();
  const { song } = store.getState();
  if (said && song) {
    store.setState({ wordsSaid: { ...said, done: said.done + by, undone: said.undone - by, turn: song.turn } });
  }
}

/** Take back what was said of words last, at the turn of whoever asks. */
export function undoWordsNow(): Promise<void> {
  return moveWordsNow(-1, undoSongNow);
}

export function redoWordsNow(): Promise<void> {
  return moveWordsNow(1, redoSongNow);
}

/** Let a syllable begin at a note. */
export function layAt(note_id: string, { phrase, place }: Pick<SyllableOut, "phrase" | "place">): void {
  void say(() => ({ type: "begin", note_ids: [note_id], phrase, place }));
}

/** The syllable that begins with the chosen note one note later or earlier. */
export function moveSyllable(by: 1 | -1): void {
  void say(() => {
    const [chosen] = selectedNotes();
    const notes = store.getState().content?.notes ?? [];
    const begins = chosen && sungNow().get(chosen.id)?.begins;
    if (!begins) return null;
    const there = notes[notes.indexOf(chosen) + by];
    if (there?.phrase !== chosen.phrase) return null;
    store.setState({ selection: new Set([there.id]) }); // the syllable stays chosen
    return { type: "begin", note_ids: [there.id], phrase: begins.phrase, place: begins.place };
  });
}

/** Those of the chosen notes that begin something are held on; when none does, all begin what they would. */
export function toggleHeld(): void {
  const chosen = selectedNotes().map(({ id }) => id);
  void say(() => {
    const sung = sungNow();
    const worded = chosen.filter((id) => sung.has(id));
    const begin = worded.filter((id) => sung.get(id)?.begins);
    if (worded.length === 0) return null;
    return begin.length > 0 ? { type: "hold", note_ids: begin } : { type: "forget", note_ids: worded };
  });
}

/** Forget what was said by hand of the chosen note. */
export function forgetHere(): void {
  const [chosen] = selectedNotes();
  if (chosen) void say(() => ({ type: "forget", note_ids: [chosen.id] }));
}

/** Cut a word wherever it is sung, as it is typed with “·” or hyphens; without any it is one syllable. */
export function cutWord(word: string, typed: string): Promise<boolean> {
  const parts = typed
    .trim()
    .toLowerCase()
    .split(/[·\-\s]+/)
    .filter(Boolean);
  return say(() => ({ type: "cut", word, parts }));
}

/** Have a word cut by rule again. */
export function cutByRule(word: string): void {
  void say(() => ({ type: "cut", word, parts: [] }));
}

/** The words that a file or pasted lines give each phrase, one line a phrase; null when they cannot be read. */
export async function linesFor(file: Blob): Promise<string | null> {
  const { trackId, analysis } = store.getState();
  if (!trackId || !analysis) return null;
  let lines: string | null = null;
  await report(async () => {
    const { words } = await api.lyrics(trackId, file);
    lines = analysis.phrases.map((phrase) => words[String(phrase.index)] ?? "").join("\n");
  }, "The words");
  return lines;
}

/** Where the words of flagged notes are sung better; none while no words are known. */
export async function betterWords(): Promise<BetterOut[]> {
  const { trackId, syllables } = store.getState();
  if (!trackId || syllables.length === 0) return [];
  let better: BetterOut[] = [];
  await report(async () => {
    ({ better } = await api.sungBetter(trackId));
  }, "The words");
  return better;
}
