/** What is shown and how. */

import type { Tool, View } from "../document/track/model";
import { SONG_ORDERS, type SongOrder } from "../document/track/song_order";
import { store, type WindowName } from "../document/track/store";
import { sourceToSong } from "../document/time/times";
import { clampTo, clampView, holdPitches, sourceSpan } from "../geometry/viewport";

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

/** The order of the songs; kept for the next visit. */
export function setSongOrder(songOrder: SongOrder): void {
  store.setState({ songOrder });
  localStorage.setItem("glass-thread-songs", songOrder);
}

export function restoreSongOrder(): void {
  const kept = SONG_ORDERS.find((order) => order === localStorage.getItem("glass-thread-songs"));
  if (kept) store.setState({ songOrder: kept });
}

/** Open a window beside the sheet, or close it. */
export function showWindow(window: WindowName | null): void {
  store.setState({ window });
}

/** Take a tool up; a second time puts it down. */
export function takeTool(tool: Tool): void {
  store.setState({ tool: store.getState().tool === tool ? "select" : tool, sketch: null });
}

/** Draw exact lines, without the voice's fine movement, or lines that keep it. */
export function drawExact(exactLine: boolean): void {
  store.setState({ exactLine });
}

/** Have what is drawn keep to the lines of the tuning, or go where the pointer goes. */
export function drawOnLines(onLines: boolean): void {
  store.setState({ onLines });
}

export function showHelp(help: boolean): void {
  store.setState({ help });
}

/** Where the first track of the song begins and the last ends, in song seconds. */
function songSpan(): [number, number] {
  const tracks = store.getState().song?.tracks.filter((track) => track.ready) ?? [];
  const starts = tracks.map((track) => track.offset_s);
  const ends = tracks.map((track) => track.offset_s + track.duration_s);
  return [Math.min(0, ...starts), Math.max(1, ...ends)];
}

/** Show another window of time and pitch, as far as there is something: in the stack of the song, else of the track. */
export function showView(view: View): void {
  const { panel, analysis } = store.getState();
  if (panel === "stack") store.setState({ view: clampTo(view, ...songSpan()) });
  else if (analysis) store.setState({ view: clampView(view, analysis.duration_s) });
}

/** A view that has moved in time, with what is sung there in sight. */
export function withPitchesOf(view: View): View {
  const [from, to] = sourceSpan(view);
  const there = store.getState().content?.notes.filter((note) => note.end_s > from && note.start_s < to) ?? [];
  return holdPitches(
    view,
    there.flatMap((note) => [note.centre_midi, note.target_midi]),
  );
}

/** The whole song at once. */
export function fitSong(): void {
  const [start_s, end_s] = songSpan();
  showView({ ...store.getState().view, start_s, end_s });
}

/** Move the window so that its middle lies at a share (0 to 1) of the track. */
export function centreViewAt(share: number): void {
  const { view, analysis } = store.getState();
  if (analysis) centreViewOn(sourceToSong(share * analysis.duration_s, view.times));
}

/** Move the window so that a moment of the song lies in its middle. */
export function centreViewOn(song_s: number): void {
  const { view, analysis } = store.getState();
  if (!analysis) return;
  const half = (view.end_s - view.start_s) / 2;
  store.setState({ view: clampView({ ...view, start_s: song_s - half, end_s: song_s + half }, analysis.duration_s) });
}
