/** Where the words of notes stand: under their threads, as far as there is room. */

import type { SungOn } from "../document/lyrics/lyrics";
import type { Curves, NoteOut, View } from "../document/track/model";
import { extremesIn } from "./extremes";
import { FONT, textWidth } from "./text_width";
import { type Lanes, midiToY, sourceSpan, timeToX, xToTime } from "./viewport";

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
const NAME_ABOVE = 26; // pixels over a note that its name takes
const STRAINED = 10; // more where a note has a fray under it
const MOVED = 10; // more where a note says by how much it was moved
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

let last: { about: readonly unknown[]; labels: WordLabel[] } = { about: [], labels: [] };

/** The labels in sight; the sheet asks for them when it is drawn, and the pointer wherever it goes over it. */
export function wordLabels(worded: Worded, lanes: Lanes): WordLabel[] {
  const { notes, curves, view, strainLimit, sung, selection } = worded;
  const { gutter, width, pitch } = lanes;
  const about = [notes, curves, view, strainLimit, sung, selection, gutter, width, pitch.top, pitch.height];
  if (!about.every((value, i) => value === last.about[i])) last = { about, labels: laidOut(worded, lanes) };
  return last.labels;
}

/** One that has no room beside the one before it or under the next note is left out. */
function laidOut(worded: Worded, lanes: Lanes): WordLabel[] {
  const { notes, view, sung } = worded;
  if (sung.size === 0) return [];
  const [from, to] = sourceSpan(view);
  const labels: WordLabel[] = [];
  let free = lanes.gutter;
  notes.forEach((note, i) => {
    const here = note.end_s >= from && note.start_s <= to ? sung.get(note.id) : undefined;
    if (!here || midiToY(Math.min(note.target_midi, note.centre_midi), view, lanes) < lanes.pitch.top) return;
    const label = labelOf(note, here, worded, lanes);
    const inside = label.x + label.width <= timeToX(note.end_s, view, lanes);
    if (label.x < free || (!inside && (!here.text || meets(label, notes[i + 1], view, lanes)))) return;
    labels.push(label);
    free = label.x + label.width + 5;
  });
  return labels;
}

/** Where the word of a note stands: under what its thread does there, beside where that comes from below. */
function labelOf(note: NoteOut, { text, begins }: SungOn, worded: Worded, lanes: Lanes): WordLabel {
  const { view, strainLimit, selection } = worded;
  const shown = text || HELD;
  const width = textWidth(shown, WORD_TYPE);
  const settled_s = Math.min(note.start_s + ARRIVES_S, (note.start_s + note.end_s) / 2);
  const lasts_s = xToTime(timeToX(settled_s, view, lanes) + width, view, lanes);
  const { start_shift_ms, end_shift_ms } = note.gesture;
  const marked = (note.strain > strainLimit ? STRAINED : 0) + (start_shift_ms || end_shift_ms ? MOVED : 0);
  const under = lowest(note, settled_s, Math.min(note.end_s - ARRIVES_S / 2, lasts_s), worded, lanes) + UNDER + marked;
  const y = Math.min(under, lanes.pitch.top + lanes.pitch.height - 8);
  const crossed = lowest(note, note.start_s, settled_s, worded, lanes) > y - CLEAR;
  const begin = timeToX(crossed ? settled_s : note.start_s, view, lanes);
  const x = Math.max(begin, lanes.gutter) + SIDE + (selection.has(note.id) ? BESIDE_HANDLE : 0);
  return { noteId: note.id, text: shown, x, y, width, begins };
}

/** Whether a label that is longer than its note would stand on the next one, or on its name. */
function meets(label: WordLabel, next: NoteOut | undefined, view: View, lanes: Lanes): boolean {
  if (!next || timeToX(next.start_s, view, lanes) > label.x + label.width) return false;
  const y = midiToY(Math.max(next.target_midi, next.centre_midi), view, lanes);
  return label.y > y - NAME_ABOVE && label.y < y + CLEAR;
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
  const last = Math.min(sung.length, Math.max(first + 1, Math.ceil(to_s / hop_s)));
  const bottoms = [sung, tuned].map((values) => extremesIn(values, first, last)[0]).filter((one) => !Number.isNaN(one));
  const thread = bottoms.length > 0 ? midiToY(Math.min(...bottoms), view, lanes) : low;
  return Math.max(low, Math.min(thread, low + FALL));
}

/** The word that a point is on. */
export function labelUnder(labels: readonly WordLabel[], x: number, y: number): WordLabel | null {
  return labels.find((one) => x >= one.x - 2 && x <= one.x + one.width + 2 && Math.abs(y - one.y) <= 9) ?? null;
}
