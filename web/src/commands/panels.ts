/** What the middle of the editor shows, and what undo and redo act on there. */

import { type Panel, store } from "../document/track/store";
import { redoComp, undoComp } from "./versions/comps";
import { canRedoWords, canUndoWords, redoWordsNow, undoWordsNow } from "./lyrics/syllables";
import { redoNow, undoNow } from "./notes/editing";
import { applyListening, listenTo } from "../listening/playing";
import { redoSong, undoSong } from "./song/song_steps";
import { afterChanges } from "../session/changes";
import { editorSession } from "../session/editor_session";

/** Show another panel; what cannot be listened to there gives way to what is tuned, and a window to a comp's own. */
export function showPanel(panel: Panel): void {
  store.setState({ panel, ...(panel === "comp" && { window: null }) });
  const { listening } = store.getState();
  const plain = listening === "tuned" || listening === "sung";
  const wrong = panel === "stack" ? !plain : panel !== "comp" && (listening === "comp" || listening === "version");
  if (wrong) listenTo("tuned");
  else applyListening();
}

/** Take back what was done last where one looks; whether that was words or notes is seen when its turn comes. */
export function undoHere(): Promise<boolean> {
  const { panel } = store.getState();
  if (panel === "comp") return undoComp();
  if (panel === "stack") return undoSong();
  const session = editorSession();
  return afterChanges(() => (canUndoWords(store.getState()) ? undoWordsNow() : undoNow(session)));
}

export function redoHere(): Promise<boolean> {
  const { panel } = store.getState();
  if (panel === "comp") return redoComp();
  if (panel === "stack") return redoSong();
  const session = editorSession();
  return afterChanges(() => (canRedoWords(store.getState()) ? redoWordsNow() : redoNow(session)));
}
