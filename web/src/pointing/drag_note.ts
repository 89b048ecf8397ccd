/** Dragging the target of the selected notes: idle, pointing, dragging. */

import { type DragPreview, type NoteOut, pitchHeld } from "../document/model";
import { type KeyLike, pitchLabel, signed, spelledWithFlats, tuningOffset } from "../document/pitch_names";
import { roundPitch } from "../document/rounding";

const SLACK_PX = 3;

export interface NoteDrag {
  note: NoteOut;
  noteIds: string[];
  fromY: number;
  /** semitones of one pixel downwards, negative */
  perPixel: number;
  moved: boolean;
}

export function beginDrag(note: NoteOut, noteIds: string[], y: number, semitonesPerPixel: number): NoteDrag {
  return { note, noteIds, fromY: y, perPixel: -semitonesPerPixel, moved: false };
}

/** The preview at a pointer height; `rounding` overrides the note's own (Alt: free). */
export function dragTo(drag: NoteDrag, y: number, key: KeyLike, rounding?: string): DragPreview | null {
  if (!drag.moved && Math.abs(y - drag.fromY) < SLACK_PX) return null;
  drag.moved = true;
  const held = pitchHeld(drag.note);
  const target = roundPitch(held + (y - drag.fromY) * drag.perPixel, key, rounding ?? drag.note.gesture.rounding);
  const label = pitchLabel(target - tuningOffset(key), spelledWithFlats(key));
  const moved = Math.round(100 * (target - drag.note.centre_midi));
  return {
    noteIds: drag.noteIds,
    semitones: target - held,
    label: `${label}   ${signed(moved)} ct`,
    line: target,
  };
}

/** The edit a finished drag asks for. */
export function dragOperation(drag: NoteDrag, preview: DragPreview): Record<string, unknown> {
  if (drag.noteIds.length === 1) {
    const values: Record<string, unknown> = { target_midi: preview.line };
    return { type: "set", note_ids: drag.noteIds, values };
  }
  return { type: "move", note_ids: drag.noteIds, cents: 100 * preview.semitones };
}
