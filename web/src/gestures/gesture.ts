/** What a gesture is: it is told where the pointer goes, says what to show, and at its end what is asked for. */

import type { DragPreview, Operation, Sketch, View } from "../document/track/model";
import type { KeyAt } from "../document/schema";
import type { Lanes } from "../geometry/viewport";

/** How finely a drag moves: by single cents or tenths, by octaves or 3 dB, or by steps of its own. */
export type Grain = "fine" | "coarse" | "own";

/** A place of the pointer, and the keys held with it. */
export interface At {
  x: number;
  y: number;
  /** seconds of the recording */
  time_s: number;
  /** seconds of the song */
  song_s: number;
  midi: number;
  grain: Grain;
  /** Alt: what would follow stays */
  alone: boolean;
  /** Shift, where it is no matter of degree */
  adding: boolean;
  view: View;
  lanes: Lanes;
}

/** What is on the sheet while it goes on; what is left out stays as it is. */
export interface Shown {
  drag?: DragPreview | null;
  sketch?: Sketch | null;
  selection?: ReadonlySet<string>;
  cursor_s?: number;
}

/** What it asks for when the pointer is let go; without `sketch` nothing of it stays. */
export interface Ending {
  operation?: Operation | null;
  sketch?: Sketch;
  selection?: ReadonlySet<string>;
  airSelection?: ReadonlySet<string>;
  cursor_s?: number;
  melodyLines?: readonly [number, number][][];
  keyChanges?: KeyAt[];
}

export interface Gesture {
  move: (at: At) => Shown;
  end: (at: At) => Ending;
}
