/** Choosing air events, and commands on them. */

import { api } from "../../api/client";
import type { AirOut, OnAir } from "../../document/track/model";
import { type EditorState, store, timesNow } from "../../document/track/store";
import { songToSource } from "../../document/time/times";
import { bringIn, clampView } from "../../geometry/viewport";
import { edit, select, selectedNotes } from "./editing";
import { report, say } from "../../session/report";
import { pointerPlace } from "./splitting";

/** The air events that are selected in a state. */
export function airIn({ content, airSelection }: Pick<EditorState, "content" | "airSelection">): AirOut[] {
  return content?.air.filter((event) => airSelection.has(event.id)) ?? [];
}

export function selectedAir(): AirOut[] {
  return airIn(store.getState());
}

export function selectAir(events: AirOut[], options: { add?: boolean } = {}): void {
  const { airSelection } = store.getState();
  const chosen = new Set(options.add ? airSelection : []);
  for (const event of events) {
    if (options.add && airSelection.has(event.id)) chosen.delete(event.id);
    else chosen.add(event.id);
  }
  store.setState({ airSelection: chosen, selection: new Set(), sketch: null });
  if (events.length === 1) showAir(events[0]!);
}

/** Move the window so that an event is in sight. */
export function showAir(event: AirOut): void {
  const { view, analysis } = store.getState();
  if (analysis) store.setState({ view: clampView(bringIn(view, event.start_s, event.end_s), analysis.duration_s) });
}

/** Into the air lane: of the chosen note's events the one nearest its start, else the next after the play position. */
export function enterAir(): void {
  const { content, cursor_s } = store.getState();
  if (!content) return;
  const note = selectedNotes()[0];
  if (selectedAir().length > 0) return leaveAir();
  const at = note ? note.start_s - 0.3 : songToSource(cursor_s, timesNow());
  const own = content.air.filter((candidate) => candidate.owner === note?.id);
  const fromNote = (event: AirOut): number => Math.abs(event.end_s - (note?.start_s ?? 0));
  const event =
    own.sort((a, b) => fromNote(a) - fromNote(b))[0] ??
    content.air.find((candidate) => candidate.end_s > at) ??
    content.air.at(-1);
  if (event) selectAir([event]);
  else say("No air was found in this track; mark a stretch in the air lane to make some.", "trouble");
}

/** Back to the note that the chosen event belongs to. */
export function leaveAir(): void {
  const owner = selectedAir()[0]?.owner;
  const note = store.getState().content?.notes.find((candidate) => candidate.id === owner);
  if (note) select([note]);
  else store.setState({ airSelection: new Set() });
}

export function selectNextAir(step: 1 | -1, wanted: (event: AirOut) => boolean = () => true): void {
  const air = store.getState().content?.air ?? [];
  const chosen = selectedAir();
  const from = step > 0 ? chosen.at(-1) : chosen[0];
  for (let i = air.findIndex((event) => event.id === from?.id) + step; i >= 0 && i < air.length; i += step) {
    if (wanted(air[i]!)) return selectAir([air[i]!]);
  }
}

/** An edit on the chosen events, or what they make of it when its turn comes; says so when there is none. */
export function editAir(operation: OnAir | ((chosen: AirOut[]) => OnAir)): Promise<boolean> {
  const { airSelection } = store.getState();
  const air_ids = selectedAir().map((event) => event.id);
  if (air_ids.length === 0) {
    say("Choose air first: click it in the air lane, or press A.", "trouble");
    return Promise.resolve(false);
  }
  if (typeof operation !== "function") return edit({ ...operation, air_ids });
  return edit(() => ({ ...operation(airIn({ content: store.getState().content, airSelection })), air_ids }));
}

export function silenceAir(): void {
  void editAir((chosen) => ({ type: "set_air", values: { muted: !chosen.every((event) => event.muted) } }));
}

/** Split the chosen event at the pointer, the play position, or its middle. */
export function splitAir(): void {
  const event = selectedAir()[0];
  if (!event) return;
  const cursor = songToSource(store.getState().cursor_s, timesNow());
  const places = [pointerPlace.time_s, cursor, (event.start_s + event.end_s) / 2];
  const at_s = places.find((time_s) => time_s > event.start_s + 0.015 && time_s < event.end_s - 0.015);
  void edit({ type: "split_air", air_id: event.id, at_s: at_s ?? (event.start_s + event.end_s) / 2 });
}

export function moveAirEdge(event: AirOut, side: "start" | "end", at_s: number): Promise<boolean> {
  return edit({ type: "move_air_edge", air_id: event.id, side, at_s });
}

/** Make something of the marked stretch. */
export async function makeOfStretch(type: "add_air" | "make_note"): Promise<void> {
  const { sketch, content } = store.getState();
  if (sketch?.kind !== "stretch" || !content) return;
  const known = new Set([...content.notes, ...content.air].map((item) => item.id));
  if (!(await edit({ type, start_s: sketch.start_s, end_s: sketch.end_s }))) return;
  store.setState({ sketch: null });
  const now = store.getState().content;
  const note = now?.notes.find((candidate) => !known.has(candidate.id));
  const event = now?.air.find((candidate) => !known.has(candidate.id));
  if (note) select([note]);
  else if (event) selectAir([event]);
}

/** Show the air lane as level or as energy over frequency. */
export async function showAirAs(airAs: "level" | "spectrum"): Promise<void> {
  const { content, spectrum } = store.getState();
  if (airAs === "spectrum" && content && spectrum?.trackId !== content.track_id) {
    const fine = await report(async () => {
      const values = new Uint8Array(await api.spectrum(content.track_id));
      store.setState({ spectrum: { trackId: content.track_id, bands: 24, values } });
    });
    if (!fine) return;
  }
  store.setState({ airAs });
}
