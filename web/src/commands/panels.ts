/** What the middle of the editor shows, and what undo and redo act on there. */

import { type Panel, store } from "../document/track/store";
import { redoComp, undoComp } from "./versions/comps";
import { canRedoWords, canUndoWords, redoWords, undoWords } from "./lyrics/syllables";
import { redo, undo } from "./notes/editing";
import { applyListening, listenTo } from "../listening/playing";
import { redoSong, undoSong } from "./song/song_steps";

/** Show another panel; what cannot be listened to there gives way to what is tuned, and a window to a comp's own. */
export function showPanel(panel: Panel): void {
  store.setState({ panel, ...(panel === "comp" && { window: null }) });
  const { listening } = store.getState();
  const plain = listening === "tuned" || listening === "sung";
  const wrong = panel === "stack" ? !plain : panel !== "comp" && (listening === "comp" || listening === "version");
  if (wrong) listenTo("tuned");
  else applyListening();
}

export function undoHere(): Promise<boolean> {
  const state = store.getState();
  if (state.panel === "comp") return undoComp();
  if (state.panel === "stack") return undoSong();
  return canUndoWords(state) ? undoWords() : undo();
}

export function redoHere(): Promise<boolean> {
  const state = store.getState();
  if (state.panel === "comp") return redoComp();
  if (state.panel === "stack") return redoSong();
  return canRedoWords(state) ? redoWords() : redo();
}
