/** What is shown and how. */

import type { Tool } from "../document/model";
import { store } from "../document/store";
import { clampView } from "../geometry/viewport";

export function dismissMessage(): void {
  store.setState({ message: null });
}

export function setNight(night: boolean): void {
  store.setState({ night });
  document.documentElement.dataset.theme = night ? "night" : "daylight";
  localStorage.setItem("glass-thread-theme", night ? "night" : "daylight");
}

export function restoreTheme(): void {
  const kept = localStorage.getItem("glass-thread-theme");
  setNight(kept ? kept === "night" : window.matchMedia("(prefers-color-scheme: dark)").matches);
}

export function showPanel(panel: "sheet" | "table"): void {
  store.setState({ panel });
}

/** Open the window of the tune pass or of more and fewer notes, or close it. */
export function showWindow(window: "pass" | "recut" | null): void {
  store.setState({ window });
}

/** Take a tool up; a second time puts it down. */
export function takeTool(tool: Tool): void {
  store.setState({ tool: store.getState().tool === tool ? "select" : tool, mark: null });
}

export function showHelp(help: boolean): void {
  store.setState({ help });
}

/** Move the window so that its middle lies at a share (0 to 1) of the track. */
export function centreViewAt(share: number): void {
  const { view, analysis } = store.getState();
  if (!analysis) return;
  const half = (view.end_s - view.start_s) / 2;
  const at = share * analysis.duration_s;
  store.setState({ view: clampView({ ...view, start_s: at - half, end_s: at + half }, analysis.duration_s) });
}
