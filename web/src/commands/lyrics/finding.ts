/** Finding notes by words, pitches, flags and bars. */

import { matches, nextOf } from "../../document/lyrics/find";
import { sungOn } from "../../document/lyrics/lyrics";
import { notePitch } from "../../document/music/pitch_names";
import type { NoteOut } from "../../document/schema";
import { barText } from "../../document/time/time_text";
import { sourceToSong, type TrackTimes } from "../../document/time/times";
import { type EditorState, store } from "../../document/track/store";
import { select, selectById } from "../notes/editing";

/** What is searched. */
export type Searched = Pick<EditorState, "content" | "song" | "syllables"> & { times: TrackTimes };

function searchedNow(): Searched {
  const state = store.getState();
  return { ...state, times: state.view.times };
}

/** The notes of the open track that are what was typed, in order. */
export function found(typed: string, { content, song, times, syllables }: Searched): NoteOut[] {
  if (!content || !song || typed.trim() === "") return [];
  const sung = sungOn(content.notes, syllables);
  return content.notes.filter((note) =>
    matches(
      {
        note,
        sung: sung.get(note.id),
        pitch: notePitch(song, note, note.target_midi, times.offset_s).name,
        place: barText(sourceToSong(note.start_s, times), song),
      },
      typed,
    ),
  );
}

/** Go to the next found note after the chosen one, or the one before it. */
export function goToFound(typed: string, direction: 1 | -1): void {
  const notes = found(typed, searchedNow());
  const { content, selection } = store.getState();
  const chosen = content?.notes.find((note) => selection.has(note.id));
  const at = nextOf(
    notes.map((note) => note.start_s),
    chosen?.start_s ?? -Infinity,
    direction,
  );
  if (notes[at]) selectById(notes[at].id);
}

/** Choose all found notes, to act on them together. */
export function selectFound(typed: string): void {
  const notes = found(typed, searchedNow());
  if (notes.length > 0) select(notes);
}

export function showFind(finding: boolean): void {
  store.setState({ finding });
}
