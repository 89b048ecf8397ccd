/** Level stretches: chosen, laid over the selection, changed and put back. */

import type { LevelStretchOut, Operation } from "../../document/track/model";
import { type EditorState, store } from "../../document/track/store";
import { VALUES } from "../../document/track/values";
import { SELECTION, say } from "../../session/report";
import { edit, selectedNotes } from "./editing";

type Values = Partial<Omit<LevelStretchOut, "id">>;

const { min: SOFTEST_DB, max: LOUDEST_DB } = VALUES.level_db;
/** What a stretch that is laid over something is changed by at first. */
export const FIRST_DB = -3;

/** The level stretch that is chosen in a state, if any. */
export function stretchIn(state: EditorState): LevelStretchOut | null {
  const { content, stretchChosen, selection, airSelection } = state;
  if (selection.size > 0 || airSelection.size > 0) return null;
  return content?.level_stretches.find((one) => one.id === stretchChosen) ?? null;
}

/** The level stretch that is chosen, if any. */
export function chosenStretch(): LevelStretchOut | null {
  return stretchIn(store.getState());
}

export function chooseStretch(id: string): void {
  store.setState({ stretchChosen: id, selection: new Set(), airSelection: new Set() });
}

export function leaveStretch(): void {
  store.setState({ stretchChosen: null });
}

/** The edit that sets values of a stretch, its level as far as it goes. */
export function ofStretch(stretch: LevelStretchOut, values: Values): Operation {
  const db = values.level_db;
  const within = db === undefined ? {} : { level_db: Math.min(LOUDEST_DB, Math.max(SOFTEST_DB, db)) };
  return { type: "set_level_stretch", stretch_ids: [stretch.id], values: { ...values, ...within } };
}

export function editStretch(stretch: LevelStretchOut, values: Values): Promise<boolean> {
  return edit(ofStretch(stretch, values));
}

export function putStretchBack(): void {
  const stretch = chosenStretch();
  if (stretch) void edit({ type: "remove_level_stretch", stretch_ids: [stretch.id] });
}

/** The time of the chosen notes with the consonants that belong to them, or of the chosen air; seconds as recorded. */
function chosenTime(): [number, number] | null {
  const { content, airSelection } = store.getState();
  const notes = selectedNotes();
  const ids = new Set(notes.map((note) => note.id));
  const own = content?.air.filter((event) => airSelection.has(event.id) || (event.owner && ids.has(event.owner))) ?? [];
  const spans = [...notes, ...own.filter((event) => airSelection.has(event.id) || event.kind !== "breath")];
  if (spans.length === 0) return null;
  return [Math.min(...spans.map((one) => one.start_s)), Math.max(...spans.map((one) => one.end_s))];
}

async function lay(level_db: number | null): Promise<void> {
  const time = chosenTime();
  if (!time) return say("Select a note or air first, to say which stretch.", "trouble", SELECTION);
  const before = new Set(store.getState().content?.level_stretches.map((one) => one.id));
  if (!(await edit({ type: "level_stretch", start_s: time[0], end_s: time[1], level_db }))) return;
  const made = store.getState().content?.level_stretches.find((one) => !before.has(one.id));
  if (made && level_db !== null) chooseStretch(made.id);
}

/** Silence what is chosen, notes and consonants alike. */
export function silenceSelection(): void {
  const stretch = chosenStretch();
  if (stretch) void editStretch(stretch, { muted: true });
  else void lay(null);
}

/** Lay a level stretch over what is chosen, to be changed from there. */
export function stretchOverSelection(): void {
  void lay(FIRST_DB);
}
