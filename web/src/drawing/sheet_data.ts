/** What the painters of the sheet are handed. */

import type {
  AirOut,
  AnalysisOut,
  Beneath,
  BorrowOut,
  Curves,
  DragPreview,
  GapOut,
  GlazeOut,
  LaneSizes,
  Ghost,
  LevelStretchOut,
  Sketch,
  NoteOut,
  PinOut,
  Spectrum,
  Tool,
  View,
} from "../document/track/model";
import type { AlignmentOut, ChordOut, CutOut } from "../document/schema";
import type { SungOn } from "../document/lyrics/lyrics";
import type { Keyed } from "../document/music/pitch_names";
import type { MarkedSong } from "./lanes/ruler";

export interface SheetData {
  notes: NoteOut[];
  air: AirOut[];
  gaps: GapOut[];
  pins: PinOut[];
  glazes: GlazeOut[];
  borrows: BorrowOut[];
  levelStretches: LevelStretchOut[];
  stretchChosen: string | null;
  curves: Curves;
  analysis: AnalysisOut;
  song: Keyed & MarkedSong;
  /** chords of the backing, when they are shown */
  chords: readonly ChordOut[];
  /** borders between notes with how sure they are, while they are asked for */
  cuts: readonly CutOut[];
  beneath: Beneath | null;
  alignment: AlignmentOut | null;
  ghost: Ghost | null;
  selection: ReadonlySet<string>;
  airSelection: ReadonlySet<string>;
  /** energy over frequency when the air lane shows it */
  spectrum: Spectrum | null;
  strainLimit: number;
  /** what is sung on each note, by its id */
  sung: ReadonlyMap<string, SungOn>;
  drag: DragPreview | null;
  sketch: Sketch | null;
  /** lines of a melody that is being drawn */
  melodyLines: readonly (readonly [number, number][])[];
  nearHandle: string | null;
  tool: Tool;
  view: View;
  laneSizes: LaneSizes;
}
