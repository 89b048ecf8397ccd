/** Dragging the target of the selected notes: idle, pointing, dragging. */

import { type DragPreview, type NoteOut, type Operation, pitchHeld } from "../document/track/model";
import { type Lines, pitchLabel, signed } from "../document/music/pitch_names";
import { roundPitch } from "../document/music/rounding";
import type { Gesture, Grain } from "./gesture";

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

/** The preview at a pointer height. */
export function dragTo(drag: NoteDrag, y: number, lines: Lines, grain: Grain): DragPreview | null {
  if (!drag.moved && Math.abs(y - drag.fromY) < SLACK_PX) return null;
  drag.moved = true;
  const held = pitchHeld(drag.note);
  const by = (y - drag.fromY) * drag.perPixel;
  const target =
    grain === "fine"
      ? held + Math.round(100 * by) / 100
      : grain === "coarse"
        ? held + 12 * Math.round(by / 12)
        : roundPitch(held + by, lines, drag.note.gesture.rounding);
  const label = pitchLabel(target, lines);
  const moved = Math.round(100 * (target - drag.note.centre_midi));
  return {
    noteIds: drag.noteIds,
    semitones: target - held,
    label: `${label}   ${signed(moved)} ct`,
    line: target,
  };
}

/** The edit a finished drag asks for. */
export function dragOperation(drag: NoteDrag, preview: DragPreview): Operation {
  if (drag.noteIds.length === 1) {
    return { type: "set", note_ids: drag.noteIds, values: { target_midi: preview.line } };
  }
  return { type: "move", note_ids: drag.noteIds, cents: 100 * preview.semitones };
}

/** A press on a note: a drag moves the target of all chosen ones, a press alone chooses; `leaves` takes it out again. */
export function noteGesture(drag: NoteDrag, lines: Lines, chosen: ReadonlySet<string>, leaves: boolean): Gesture {
  let shown: DragPreview | null = null;
  return {
    move(at) {
      shown = dragTo(drag, at.y, lines, at.grain);
      return { drag: shown };
    },
    end(at) {
      if (shown) return { operation: dragOperation(drag, shown) };
      if (drag.moved) return {};
      if (leaves) return { selection: new Set([...chosen].filter((id) => id !== drag.note.id)) };
      return chosen.size > 1 && !at.adding ? { selection: new Set([drag.note.id]) } : {};
    },
  };
}
