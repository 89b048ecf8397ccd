/** A syllable dragged to another note of its phrase. */

import type { NoteOut, SyllableOut } from "../document/schema";
import type { WordLabel } from "../geometry/syllables";
import type { At, Gesture } from "./gesture";

const NEAR_S = 0.25;

/** The note of a phrase that a moment is on or near. */
export function noteNear(notes: readonly NoteOut[], phrase: number, time_s: number): NoteOut | null {
  const away = ({ start_s, end_s }: NoteOut): number => Math.max(0, start_s - time_s, time_s - end_s);
  const near = notes.filter((note) => note.phrase === phrase && away(note) < NEAR_S);
  return near.sort((a, b) => away(a) - away(b))[0] ?? null;
}

export function syllableGesture(
  label: WordLabel,
  begins: SyllableOut,
  notes: readonly NoteOut[],
  lay: (noteId: string, syllable: SyllableOut) => void,
): Gesture {
  const target = (at: At): NoteOut | null => noteNear(notes, begins.phrase, at.time_s);
  return {
    move: (at) => ({
      sketch: { kind: "syllable", text: label.text, x: at.x, y: at.y, toId: target(at)?.id ?? null },
    }),
    end: (at) => {
      const note = target(at);
      if (note && note.id !== label.noteId) lay(note.id, begins);
      return note ? { selection: new Set([note.id]) } : {};
    },
  };
}
