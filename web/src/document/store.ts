/** The editor's state; everything on screen reads from here. */

import { createStore } from "zustand/vanilla";
import type {
  AnalysisOut,
  Curves,
  DocumentOut,
  DragPreview,
  Listening,
  Sketch,
  Preview,
  Spectrum,
  SongOut,
  Tool,
  View,
} from "./model";

export interface Message {
  text: string;
  kind: "trouble" | "done";
}

export type WindowName =
  "pass" | "recut" | "read_again" | "alike" | "soften" | "breaths" | "even" | "gaps" | "loudness";

export interface EditorState {
  songs: SongOut[] | null;
  song: SongOut | null;
  trackId: string | null;
  content: DocumentOut | null;
  analysis: AnalysisOut | null;
  curves: Curves | null;
  selection: ReadonlySet<string>;
  /** chosen air events; never together with notes */
  airSelection: ReadonlySet<string>;
  view: View;
  drag: DragPreview | null;
  tool: Tool;
  stripHidden: boolean;
  sketch: Sketch | null;
  /** the handle that the pointer is near */
  nearHandle: "start" | "end" | "glide" | null;
  preview: Preview | null;
  /** notes whose gestures were copied */
  copied: string[];
  /** the step after which the last listening round was marked */
  markedStep: number | null;
  window: WindowName | null;
  /** how the air lane shows the sound: heights of level, or energy over frequency */
  airAs: "level" | "spectrum";
  spectrum: Spectrum | null;
  /** notes with more strain than this are marked */
  strainLimit: number;
  listening: Listening;
  playing: boolean;
  cursor_s: number;
  loop: boolean;
  backing: boolean;
  /** dB */
  backingLevel: number;
  message: Message | null;
  panel: "sheet" | "table";
  night: boolean;
  help: boolean;
}

export const store = createStore<EditorState>(() => ({
  songs: null,
  song: null,
  trackId: null,
  content: null,
  analysis: null,
  curves: null,
  selection: new Set<string>(),
  airSelection: new Set<string>(),
  view: { start_s: 0, end_s: 12, low: 54, high: 78 },
  drag: null,
  tool: "select",
  stripHidden: false,
  sketch: null,
  nearHandle: null,
  preview: null,
  copied: [],
  markedStep: null,
  window: null,
  airAs: "level",
  spectrum: null,
  strainLimit: 50,
  listening: "tuned",
  playing: false,
  cursor_s: 0,
  loop: false,
  backing: true,
  backingLevel: -6,
  message: null,
  panel: "sheet",
  night: false,
  help: false,
}));

export function trackOf(state: EditorState): SongOut["tracks"][number] | undefined {
  return state.song?.tracks.find((track) => track.id === state.trackId);
}
