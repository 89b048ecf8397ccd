/** The editor's state; everything on screen reads from here. */

import { createStore } from "zustand/vanilla";
import type {
  AnalysisOut,
  Beneath,
  Curves,
  Content,
  DragPreview,
  Listening,
  Sketch,
  Preview,
  Spectrum,
  SongOut,
  Tool,
  Ghost,
  InSmall,
  LaneSizes,
  VersionOut,
  View,
} from "./model";
import { USUAL_LANES } from "./model";
import type { CompRow, CompSketch, Stretch } from "./comp";
import type {
  AlignmentOut,
  ChordOut,
  CompOut,
  CutOut,
  KeysOut,
  SyllableOut,
  ScalesOut,
  TempoEstimateOut,
} from "../schema";
import type { Known, SongOrder } from "./song_order";
import { type TrackTimes, timesOf, UNMOVED } from "../time/times";

export interface Message {
  text: string;
  kind: "trouble" | "done";
  /** what it is about: when that goes well, the message goes */
  about: string;
  /** does what was refused once more */
  again?: () => void;
}

/** A file that was refused because it ends early, until the user says whether to take it as far as it goes. */
export interface CutOffFile {
  songId: string;
  file: File;
  role: string | null;
}

/** A file that waits to be sent, or is on its way. */
export interface SendingFile {
  songId: string;
  file: File;
  stage: "waiting" | "sending";
}

/** What the middle of the editor shows. */
export type Panel = "sheet" | "table" | "comp" | "stack" | "report";

export type WindowName =
  | "pass"
  | "quantise"
  | "glaze"
  | "borrow"
  | "follow"
  | "double"
  | "harmony"
  | "follow_stack"
  | "melody"
  | "recut"
  | "two_pitches"
  | "read_again"
  | "alike"
  | "soften"
  | "breaths"
  | "even"
  | "gaps"
  | "loudness"
  | "versions"
  | "song_steps"
  | "chords"
  | "pure";

/** What a song that has none yet is offered. */
export type Offered = "key" | "tempo";

/** What a user sets once, for every song. */
export interface Remembered {
  /** how far T pulls, 0.6 to 1 */
  ownStrength: number;
  /** what is heard before a place one starts at, seconds */
  leadIn_s: number;
  /** notes, air and phrases sound when they are pressed */
  hearsPresses: boolean;
  /** strain from which notes are marked, 1 to 100 */
  strainLimit: number;
  /** the chords of the backing stand under the ruler */
  showsChords: boolean;
  listFolded: boolean;
  inspectorFolded: boolean;
  laneSizes: LaneSizes;
}

export interface EditorState extends Remembered {
  songs: SongOut[] | null;
  /** how far tracks are by now, by id, where that was asked for since the list of songs said it */
  progress: Known;
  songOrder: SongOrder;
  sending: readonly SendingFile[];
  cutOff: readonly CutOffFile[];
  song: SongOut | null;
  trackId: string | null;
  content: Content | null;
  versions: VersionOut[];
  /** removed versions that can be brought back */
  removedVersions: VersionOut[];
  /** the notes of another track, shown behind those of the open one */
  beneath: Beneath | null;
  /** how the open track lies on the one it is to follow, while that is looked at */
  alignment: AlignmentOut | null;
  /** counts up whenever the list of steps may have changed */
  stepsTurn: number;
  ghost: Ghost | null;
  /** the version that “version” listens to */
  heardVersion: string | null;
  /** null until they are known */
  comps: VersionOut[] | null;
  /** removed comps that can be brought back */
  removedComps: VersionOut[];
  /** the open comp as it stands */
  comp: CompOut | null;
  /** the versions with their threads, as the comp view shows them */
  compRows: readonly CompRow[];
  /** the stretch of the song that is looked at in the comp view, and the version's place */
  compHere: Stretch | null;
  compRow: number;
  compSketch: CompSketch | null;
  /** comparing brings versions to the same loudness */
  matchLoudness: boolean;
  /** integrated loudness by step, as far as it was asked for */
  loudnessOf: ReadonlyMap<string, number>;
  analysis: AnalysisOut | null;
  /** keys the open track may be in; null until they are known */
  keys: KeysOut | null;
  /** the scales and tunings there are; null until they are known */
  scales: ScalesOut | null;
  /** tempos the open song may have; null until they are known */
  tempos: TempoEstimateOut | null;
  /** the chords of the open song, once they were asked for */
  chords: readonly ChordOut[];
  /** the syllables of the open track's words on its notes, their language, and those that may be chosen */
  syllables: readonly SyllableOut[];
  /** what they were laid for, in one text */
  syllablesFor: string;
  /** what was said of words one after the other and nothing since: how often, and how often that was taken back, with
   * where song and track stood then */
  wordsSaid: { done: number; undone: number; turn: number; step: string } | null;
  language: string;
  languages: readonly string[];
  /** what of both could not be found out when it was last asked for */
  unheard: ReadonlySet<Offered>;
  /** what is to be offered no more: "key" or "tempo" and the song */
  offersLater: ReadonlySet<string>;
  curves: Curves | null;
  /** borders between notes and how sure they are; empty unless they are asked for */
  cuts: readonly CutOut[];
  selection: ReadonlySet<string>;
  /** chosen air events; never together with notes */
  airSelection: ReadonlySet<string>;
  /** the level stretch that is chosen while neither notes nor air are */
  stretchChosen: string | null;
  view: View;
  drag: DragPreview | null;
  tool: Tool;
  /** what is drawn by hand leaves the voice's fine movement out */
  exactLine: boolean;
  /** what is drawn by hand keeps to the lines of the tuning */
  onLines: boolean;
  /** moving in time takes along what comes after, up to the next pin */
  timeFollows: boolean;
  stripHidden: boolean;
  /** a press on the pitch lane draws a line of a melody, and those that were drawn: seconds of the recording, MIDI */
  drawsMelody: boolean;
  melodyLines: readonly [number, number][][];
  sketch: Sketch | null;
  /** the handle that the pointer is near */
  nearHandle: "start" | "end" | "glide" | null;
  preview: Preview | null;
  /** what an edit has made of the open track: on the sheet a frame before everything else shows it */
  ahead: { content: Content; curves: Curves } | null;
  /** notes whose gestures were copied */
  copied: string[];
  /** the step that was marked to compare with */
  markedStep: string | null;
  window: WindowName | null;
  /** the track whose name, role and place are looked at */
  changing: string | null;
  /** how the air lane shows the sound: heights of level, or energy over frequency */
  airAs: "level" | "spectrum";
  spectrum: Spectrum | null;
  listening: Listening;
  playing: boolean;
  cursor_s: number;
  loop: boolean;
  /** tracks in small, by id, as the stack shows them */
  inSmall: ReadonlyMap<string, InSmall>;
  /** tracks that are edited together */
  chosenTracks: ReadonlySet<string>;
  /** tracks that alone are heard; all when there are none */
  soloed: ReadonlySet<string>;
  /** whether the other vocals of the song are heard along */
  others: boolean;
  /** a soft tone plays the tuned melody of the open track along */
  melodyAlong: boolean;
  backing: boolean;
  /** dB */
  backingLevel: number;
  message: Message | null;
  panel: Panel;
  leftPanel: "phrases" | "flags";
  /** the kind of flags that are looked at; null for all */
  flagKind: string | null;
  night: boolean;
  help: boolean;
  /** notes are searched for */
  finding: boolean;
}

/** What a track begins with: nothing of what was chosen, heard or tried on another one. */
export const NEWLY_OPENED = {
  comps: null,
  removedComps: [],
  comp: null,
  compRows: [],
  compHere: null,
  compRow: 0,
  compSketch: null,
  ghost: null,
  heardVersion: null,
  loudnessOf: new Map<string, number>(),
  keys: null,
  tempos: null,
  chords: [],
  syllables: [],
  syllablesFor: "",
  wordsSaid: null,
  unheard: new Set<Offered>(),
  selection: new Set<string>(),
  airSelection: new Set<string>(),
  stretchChosen: null,
  drag: null,
  tool: "select",
  sketch: null,
  preview: null,
  ahead: null,
  copied: [],
  markedStep: null,
  airAs: "level",
  spectrum: null,
  listening: "tuned",
} satisfies Partial<EditorState>;

const AT_FIRST: EditorState = {
  songs: null,
  progress: {},
  songOrder: "last worked",
  sending: [],
  cutOff: [],
  song: null,
  trackId: null,
  content: null,
  versions: [],
  removedVersions: [],
  stepsTurn: 0,
  alignment: null,
  beneath: null,
  ...NEWLY_OPENED,
  matchLoudness: false,
  analysis: null,
  scales: null,
  offersLater: new Set<string>(),
  curves: null,
  cuts: [],
  view: { start_s: 0, end_s: 12, times: UNMOVED, low: 54, high: 78 },
  exactLine: false,
  onLines: false,
  timeFollows: false,
  stripHidden: false,
  drawsMelody: false,
  melodyLines: [],
  nearHandle: null,
  window: null,
  changing: null,
  strainLimit: 50,
  playing: false,
  cursor_s: 0,
  loop: false,
  others: false,
  inSmall: new Map(),
  chosenTracks: new Set(),
  soloed: new Set(),
  melodyAlong: false,
  language: "",
  languages: [],
  finding: false,
  backing: true,
  backingLevel: -6,
  message: null,
  panel: "sheet",
  leftPanel: "phrases",
  flagKind: null,
  night: false,
  help: false,
  ownStrength: 1,
  leadIn_s: 0.7,
  hearsPresses: true,
  showsChords: false,
  listFolded: false,
  inspectorFolded: false,
  laneSizes: USUAL_LANES,
};

export const store = createStore<EditorState>(() => AT_FIRST);

export function trackOf(state: EditorState): SongOut["tracks"][number] | undefined {
  return state.song?.tracks.find((track) => track.id === state.trackId);
}

/** How the moments of the open track lie in the song, as they are shown. */
export function timesNow(): TrackTimes {
  return store.getState().view.times;
}

/** The window with the open track's moments where a state of it puts them. */
export function viewIn(content: Pick<Content, "times"> | null): View {
  const state = store.getState();
  return { ...state.view, times: timesOf(trackOf(state), content?.times) };
}
