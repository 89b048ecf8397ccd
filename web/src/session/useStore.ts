import { useStore as useZustand } from "zustand";
import { type EditorState, store } from "../document/track/store";

/** Read one thing from the editor's state; the component redraws when it changes. */
export function useEditor<T>(selector: (state: EditorState) => T): T {
  return useZustand(store, selector);
}
