/** What the editor shows; plain records, seconds and MIDI pitch, never pixels. */

import type {
  AirOut,
  AnalysisOut,
  BorrowOut,
  ContentOut,
  GapOut,
  GlazeOut,
  LevelStretchOut,
  NoteOut,
  Operation,
  PinOut,
  PreviewOut,
  SongOut,
  SplitOut,
  StepOut,
  TrackOut,
  TriedVoiceOut,
  VersionOut,
} from "../schema";
import type { TrackTimes } from "../time/times";

export type {
  AirOut,
  AnalysisOut,
  BorrowOut,
  GapOut,
  GlazeOut,
  LevelStretchOut,
  NoteOut,
  Operation,
  PinOut,
  SongOut,
  SplitOut,
  StepOut,
  TrackOut,
  VersionOut,
};
/** Everything edited of a track, as it stands at the head of a version. */
export type Content = ContentOut;
/** What a change leaves different, without the rest. */
export type Delta = Pick<
  PreviewOut,
  | "notes"
  | "air"
  | "gaps"
  | "pins"
  | "glazes"
  | "borrows"
  | "links"
  | "level_stretches"
  | "times"
  | "gone"
  | "changed"
  | "curves"
>;
/** What is listened to; “version” is the one of `heardVersion`. */
export type Listening = "tuned" | "sung" | "difference" | "preview" | "marked" | "version" | "comp" | "air" | "notes";
export type Tool = "select" | "time" | "draw" | "rub" | "level";
/** What of a note is moved in time. */
export type TimeEdge = "both" | "start" | "end";

/** An operation whose notes, or air events, are the selection. */
type Without<T, K extends string> = T extends unknown ? Omit<T, K> : never;
export type OnNotes = Without<Extract<Operation, { note_ids: string[] }>, "note_ids">;
export type OnAir = Without<Extract<Operation, { air_ids: string[] }>, "air_ids">;

/** Curves that edits change, on the analysis grid; NaN where unvoiced. */
export interface EditedCurves {
  /** as the notes are read */
  sung: Float32Array;
  tuned: Float32Array;
  levelChange: Float32Array;
  /** the part of tuned minus sung that glazes add, semitones */
  glaze: Float32Array;
  level: Float32Array;
  confidence: Uint8Array;
  /** lowest and highest sample of each frame, ±127 */
  waveform: Int8Array;
}

/** Curves of one track on the analysis grid. */
export interface Curves extends EditedCurves {
  hop_s: number;
}

/** Heights of the lower lanes in pixels; level null is a share of the sheet. */
export interface LaneSizes {
  air: number;
  level: number | null;
}

export const USUAL_LANES: LaneSizes = { air: 58, level: null };

/** The window: song seconds and MIDI pitch, and how the open track's moments lie in the song. */
export interface View {
  start_s: number;
  end_s: number;
  times: TrackTimes;
  low: number;
  high: number;
}

/** A drag under way: how far the selected notes' targets are moved, in semitones. */
export interface DragPreview {
  noteIds: string[];
  semitones: number;
  label: string;
  line: number;
}

/** What a preview is heard with: nothing else, a track that leads it, or beside the track it is made of. */
export type Together =
  | { kind: "alone" }
  | { kind: "with"; lead: string }
  | { kind: "beside"; voices: readonly TriedVoiceOut[] };

/** What an operation that is tried out and not taken yet would leave. */
export interface Preview {
  id: string;
  together: Together;
  notes: NoteOut[];
  air: AirOut[];
  gaps: GapOut[];
  pins: PinOut[];
  glazes: GlazeOut[];
  borrows: BorrowOut[];
  level_stretches: LevelStretchOut[];
  curves: EditedCurves;
}

/** Energy over time and frequency: half decibels over −120 dBFS, rows of frames. */
export interface Spectrum {
  trackId: string;
  bands: number;
  values: Uint8Array;
}

/** What a gesture under way shows on the sheet besides a moved note. */
export type Sketch =
  | { kind: "split"; proposal: SplitOut }
  | { kind: "edge"; noteId: string; side: "start" | "end"; at_s: number }
  | { kind: "glide"; noteId: string; glide_ms: number; bend: number }
  | { kind: "line"; points: [number, number][]; exact: boolean }
  | { kind: "rub"; start_s: number; end_s: number }
  | { kind: "frame"; x0: number; y0: number; x1: number; y1: number }
  | { kind: "level"; of: "note" | "air"; ids: string[]; db: number }
  | { kind: "air_edge"; airId: string; side: "start" | "end"; at_s: number }
  | { kind: "time"; noteIds: string[]; edge: TimeEdge; by_ms: number; follow: boolean; limited: boolean }
  | { kind: "pin"; pinId: string; by_ms: number }
  | { kind: "key"; at_s: number; words: string }
  | { kind: "level_stretch"; id: string | null; start_s: number; end_s: number; level_db: number | null }
  | { kind: "stretch"; start_s: number; end_s: number; done: boolean }
  | { kind: "syllable"; text: string; x: number; y: number; toId: string | null };

/** Cents from the centre as sung to the target. */
export function centsOff(note: NoteOut): number {
  return 100 * (note.centre_midi - note.target_midi);
}

/** Where a drag of this note starts: its target when it is tuned, else where it is heard. */
export function pitchHeld(note: NoteOut): number {
  return note.gesture.pull > 0 ? note.target_midi : note.centre_midi;
}

/** A track in small: its notes and its highest levels (0 to 127) in track seconds, as it is heard at a step. */
export interface InSmall {
  step: string | null;
  notes: readonly { start_s: number; end_s: number; midi: number }[];
  outline: readonly number[];
  outline_s: number;
}

/** Notes of another track of the song, in song seconds. */
export interface Beneath {
  trackId: string;
  name: string;
  notes: readonly { start_s: number; end_s: number; midi: number }[];
}

/** Another version's tuned thread behind the open one's, in its own time. */
export interface Ghost {
  times: TrackTimes;
  versionId: string;
  step_id: string;
  tuned: Float32Array;
  /** the pitch its notes end up at, by id */
  notes: ReadonlyMap<string, number>;
}
