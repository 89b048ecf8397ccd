/** Where the words of notes stand: under their threads, as far as there is room. */

import type { SungOn } from "../document/lyrics/lyrics";
import type { Curves, NoteOut, View } from "../document/track/model";
import { extremesIn } from "./extremes";
import { FONT, textWidth } from "./text_width";
import { type Lanes, midiToY, sourceSpan, timeToX } from "./viewport";

export interface WordLabel {
  noteId: string;
  text: string;
  x: number;
  /** middle of the text */
  y: number;
  width: number;
  begins: SungOn["begins"];
}

export const WORD_TYPE = `13px ${FONT}`;
const UNDER = 19; // pixels from the thread to the middle of the text
const FALL = 30; // that it gives way at most to a thread that goes lower
const ARRIVES_S = 0.12; // by when a note's thread has come from the one before it
const CLEAR = 9; // pixels between a thread and the middle of the text
const BESIDE_HANDLE = 9;
const STRAINED = 10; // more where a note has a fray under it
const SIDE = 3;
const HELD = "–";

export interface Worded {
  notes: readonly NoteOut[];
  curves: Pick<Curves, "sung" | "tuned" | "hop_s">;
  view: View;
  strainLimit: number;
  sung: ReadonlyMap<string, SungOn>;
  selection: ReadonlySet<string>;
}

/** The labels in sight; one that has no room beside the one before it is left out. */
export function wordLabels({ notes, curves, view, strainLimit, sung, selection }: Worded, lanes: Lanes): WordLabel[] {
  if (sung.size === 0) return [];
  const [from, to] = sourceSpan(view);
  const labels: WordLabel[] = [];
  let free = lanes.gutter;
  for (const note of notes) {
    const here = note.end_s >= from && note.start_s <= to ? sung.get(note.id) : undefined;
    if (!here) continue;
    const text = here.text || HELD;
    const width = textWidth(text, WORD_TYPE);
    const settled_s = Math.min(note.start_s + ARRIVES_S, (note.start_s + note.end_s) / 2);
    const fray = note.strain > strainLimit ? STRAINED : 0;
    const under = lowest(note, settled_s, note.end_s, { curves, view }, lanes) + UNDER + fray;
    const y = Math.min(under, lanes.pitch.top + lanes.pitch.height - 8);
    const crossed = lowest(note, note.start_s, settled_s, { curves, view }, lanes) > y - CLEAR;
    const begin = timeToX(crossed ? settled_s : note.start_s, view, lanes);
    const x = Math.max(begin, lanes.gutter) + SIDE + (selection.has(note.id) ? BESIDE_HANDLE : 0);
    if (x < free || (!here.text && timeToX(note.end_s, view, lanes) - x < width)) continue;
    labels.push({ noteId: note.id, text, x, y, width, begins: here.begins });
    free = x + width + 5;
  }
  return labels;
}

/** The lowest that the threads of a note go between two moments, no further than `FALL` under its pitches. */
function lowest(
  note: NoteOut,
  from_s: number,
  to_s: number,
  { curves, view }: Pick<Worded, "curves" | "view">,
  lanes: Lanes,
): number {
  const { sung, tuned, hop_s } = curves;
  const low = Math.max(midiToY(note.target_midi, view, lanes), midiToY(note.centre_midi, view, lanes));
  const first = Math.max(0, Math.round(from_s / hop_s));
  const last = Math.min(sung.length, Math.ceil(to_s / hop_s));
  const bottoms = [sung, tuned].map((values) => extremesIn(values, first, last)[0]).filter((one) => !Number.isNaN(one));
  const thread = bottoms.length > 0 ? midiToY(Math.min(...bottoms), view, lanes) : low;
  return Math.max(low, Math.min(thread, low + FALL));
}

/** The word that a point is on. */
export function labelUnder(labels: readonly WordLabel[], x: number, y: number): WordLabel | null {
  return labels.find((one) => x >= one.x - 2 && x <= one.x + one.width + 2 && Math.abs(y - one.y) <= 9) ?? null;
}
