/** The view and the selection live in the address, so that a reload comes back to the same place. */

import { type Panel, store } from "../document/track/store";

const PANELS: readonly Panel[] = ["sheet", "table", "comp", "stack", "report"];

export interface Place {
  songId: string | null;
  trackId: string | null;
}

export function readAddress(): Place & { query: URLSearchParams } {
  const [path, query] = location.hash.replace(/^#\/?/, "").split("?");
  const parts = (path ?? "").split("/");
  return {
    songId: parts[0] === "song" ? (parts[1] ?? null) : null,
    trackId: parts[2] === "track" ? (parts[3] ?? null) : null,
    query: new URLSearchParams(query),
  };
}

export function goTo(path: string): void {
  location.hash = path;
}

let timer: number | undefined;

/** Write the state to the address a moment after the last change. */
export function keepAddress(): () => void {
  return store.subscribe(() => {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => {
      const { song, trackId, view, selection, panel, comp } = store.getState();
      // An address that already names another track is a wish to go there, not yet read.
      if (!song || !trackId || readAddress().trackId !== trackId) return;
      // A comp that is still being loaded is the one the address names.
      const open = comp?.version.id ?? readAddress().query.get("comp");
      const query = new URLSearchParams({
        t: `${view.start_s.toFixed(3)}_${view.end_s.toFixed(3)}`,
        p: `${view.low.toFixed(2)}_${view.high.toFixed(2)}`,
      });
      if (selection.size > 0) query.set("notes", [...selection].join("_"));
      if (panel !== "sheet") query.set("panel", panel);
      if (panel === "comp" && open) query.set("comp", open);
      const address = `#/song/${song.id}/track/${trackId}?${query.toString()}`;
      if (address !== location.hash) history.replaceState(null, "", address); // the browser takes its time over it
    }, 200);
  });
}

/** Bring back view and selection from the address; false when it holds none. */
export function restoreView(query: URLSearchParams): boolean {
  const [a, b] = (query.get("t") ?? "").split("_").map(Number);
  const [low, high] = (query.get("p") ?? "").split("_").map(Number);
  const ids = (query.get("notes") ?? "").split("_").filter(Boolean);
  const known = new Set(store.getState().content?.notes.map((note) => note.id));
  store.setState({
    selection: new Set(ids.filter((id) => known.has(id))),
    panel: PANELS.find((panel) => panel === query.get("panel")) ?? "sheet",
  });
  if (![a, b, low, high].every((v) => v !== undefined && Number.isFinite(v)) || !(b! > a!) || !(high! > low!))
    return false;
  store.setState({ view: { ...store.getState().view, start_s: a!, end_s: b!, low: low!, high: high! } });
  return true;
}
