/** What the painters of the sheet are handed. */

import type { AnalysisOut, Curves, DragPreview, Mark, NoteOut, View } from "../document/model";
import type { KeyLike } from "../document/pitch_names";
import type { MeterLike } from "../document/time_text";

export interface SheetData {
  notes: NoteOut[];
  curves: Curves;
  analysis: AnalysisOut;
  song: KeyLike & MeterLike;
  offset_s: number;
  selection: ReadonlySet<string>;
  drag: DragPreview | null;
  mark: Mark | null;
  nearHandle: string | null;
  view: View;
}
