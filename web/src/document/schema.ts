// Generated from the API's schema by `glass-thread types`; do not edit.

export interface AirOut {
  id: string;
  kind: "sibilant" | "consonant" | "breath";
  start_s: number;
  end_s: number;
  level_db: number;
  high_db: number;
  voiced: boolean;
  change_db: number;
  muted: boolean;
  owner: string | null;
  harsh_db: number | null;
}

export interface AlikeOut {
  phrases: number[];
}

export interface AnalysisOut {
  duration_s: number;
  hop_s: number;
  frames: number;
  reference_hz: number;
  polyphonic: boolean;
  phrases: PhraseOut[];
  keys: KeyOut[];
}

export interface DocumentOut {
  track_id: string;
  revision: number;
  notes: NoteOut[];
  air: AirOut[];
  gaps: GapOut[];
  steps: StepOut[];
  can_undo: boolean;
  can_redo: boolean;
  changed: SpanOut[];
}

export interface EditIn {
  base_revision: number;
  operation: Record<string, unknown>;
}

export interface GapOut {
  id: string;
  start_s: number;
  end_s: number;
  level_db: number;
  muted: boolean;
}

export interface GestureOut {
  target_midi: number | null;
  rounding: string;
  pull: number;
  drift: number;
  vibrato: number;
  lean_in: number;
  lean_out: number;
  glide_ms: number;
  glide_bend: number;
  level_db: number;
  formant_shift: number;
  added_extent: number;
  added_rate_hz: number;
  added_onset_ms: number;
  added_level: number;
  hand: StrokeOut[];
}

export interface HTTPError {
  detail?: Record<string, unknown>;
  message?: string;
}

export interface ImportOut {
  track: TrackOut1;
  task: TaskOut1;
}

export interface KeyOut {
  tonic: number;
  scale: string;
  confidence: number;
}

export interface LoudnessOut {
  integrated_lufs: number | null;
  true_peak_dbtp: number;
}

export interface LoudnessesOut {
  sung: LoudnessOut;
  tuned: LoudnessOut;
}

export interface NoteOut {
  id: string;
  start_s: number;
  end_s: number;
  centre_midi: number;
  drift_cents_per_s: number;
  vibrato: VibratoOut | null;
  level_db: number;
  phrase: number;
  octave: number;
  centre_span: number[] | null;
  target_midi: number;
  tuned_midi: number;
  edited: boolean;
  flags: string[];
  strain: number;
  kept: number;
  advice: string;
  gesture: GestureOut;
}

export interface PhraseOut {
  index: number;
  start_s: number;
  end_s: number;
}

export interface PreviewIn {
  operation: Record<string, unknown>;
}

export interface PreviewOut {
  notes: NoteOut[];
  air: AirOut[];
  gaps: GapOut[];
  changed_notes: number;
  changed_air: number;
  lost: string[];
  changed: SpanOut[];
}

export interface PrintIn {
  container?: "wav" | "flac";
  bits?: 16 | 24 | 32 | null;
  lower_db?: number;
}

export interface PrintSummaryOut {
  untouched_share: number;
  peak_dbfs: number;
  notes_changed: number;
  air_changed: number;
  usual_bits: number;
}

export interface RevisionIn {
  base_revision: number;
}

export interface ScalesOut {
  scales: Record<string, number[]>;
}

export interface SongChangeIn {
  title?: string;
  tonic?: number;
  scale?: string;
  classes?: number[];
  reference_hz?: number;
  tempo?: number;
  beats_per_bar?: number;
  beat_unit?: number;
  bar_one_s?: number;
  words?: Record<string, string>;
  done?: string[];
}

export interface SongIn {
  title: string;
}

export interface SongOut {
  id: string;
  title: string;
  tonic: number;
  scale: string;
  classes: number[];
  reference_hz: number;
  tempo: number;
  beats_per_bar: number;
  beat_unit: number;
  bar_one_s: number;
  key_chosen: boolean;
  words: Record<string, unknown>;
  done: string[];
  tracks: TrackOut[];
  tasks: TaskOut[];
}

export interface SongOut1 {
  id: string;
  title: string;
  tonic: number;
  scale: string;
  classes: number[];
  reference_hz: number;
  tempo: number;
  beats_per_bar: number;
  beat_unit: number;
  bar_one_s: number;
  key_chosen: boolean;
  words: Record<string, unknown>;
  done: string[];
  tracks: TrackOut[];
  tasks: TaskOut[];
}

export interface SongsOut {
  songs: SongOut[];
}

export interface SpanOut {
  start_s: number;
  end_s: number;
}

export interface SplitOut {
  note_id: string;
  at_s: number;
  left_midi: number;
  right_midi: number;
}

export interface StackBreathsIn {
  level_db?: number;
  muted?: boolean;
}

export interface StackBreathsOut {
  tracks: StackChangeOut[];
}

export interface StackChangeOut {
  track_id: string;
  name: string;
  changed: number;
}

export interface StepOut {
  number: number;
  label: string;
  in_force: boolean;
}

export interface StrokeOut {
  points: number[][];
  keep_fine: boolean;
}

export interface TaskOut {
  id: string;
  kind: string;
  song_id: string | null;
  track_id: string | null;
  state: string;
  stage: string;
  share: number;
  message: string;
  wanted: Record<string, unknown>;
  result: Record<string, unknown>;
}

export interface TaskOut1 {
  id: string;
  kind: string;
  song_id: string | null;
  track_id: string | null;
  state: string;
  stage: string;
  share: number;
  message: string;
  wanted: Record<string, unknown>;
  result: Record<string, unknown>;
}

export interface TrackChangeIn {
  name?: string;
  role?: "lead" | "double" | "harmony" | "backing";
  offset_s?: number;
  level_db?: number;
  muted?: boolean;
}

export interface TrackIn {
  file: string;
  role?: string;
  offset_s?: number | null;
}

export interface TrackOut {
  id: string;
  song_id: string;
  name: string;
  role: string;
  sample_rate: number;
  channels: number;
  frames: number;
  container: string;
  subtype: string;
  duration_s: number;
  offset_s: number;
  level_db: number;
  muted: boolean;
  ready: boolean;
  notes_found: number;
  revision: number;
  position: number;
}

export interface TrackOut1 {
  id: string;
  song_id: string;
  name: string;
  role: string;
  sample_rate: number;
  channels: number;
  frames: number;
  container: string;
  subtype: string;
  duration_s: number;
  offset_s: number;
  level_db: number;
  muted: boolean;
  ready: boolean;
  notes_found: number;
  revision: number;
  position: number;
}

export interface TunePassIn {
  name: string;
  pull: number;
  drift: number;
  vibrato: number;
  rounding: "scale" | "semitone";
  beyond_cents: number;
  keep_edited: boolean;
}

export interface TunePassOut {
  name: string;
  hint: string;
  shipped: boolean;
  pull: number;
  drift: number;
  vibrato: number;
  rounding: string;
  beyond_cents: number;
  keep_edited: boolean;
}

export interface TunePassesOut {
  passes: TunePassOut[];
}

export interface ValidationError {
  detail?: Record<string, unknown>;
  message?: string;
}

export interface VibratoOut {
  rate_hz: number;
  extent_cents: number;
  onset_s: number;
}
