/** Borrow: places where the same word was sung too, heard in place, taken and given back. */

import { api } from "../../api/client";
import type { NoteOut, Operation } from "../../document/track/model";
import type { BetterOut, OfferOut } from "../../document/schema";
import { store } from "../../document/track/store";
import { edit } from "../notes/editing";
import { dropPreview } from "../notes/previewing";
import { report } from "../../session/report";

export type Borrow = Extract<Operation, { type: "borrow" }>;

/** Places that are alike to some notes of the open track, the likeliest first. */
export async function loadBorrowOffers(noteIds: string[]): Promise<OfferOut[]> {
  let offers: OfferOut[] = [];
  await report(async () => {
    const { content } = store.getState();
    if (!content) return;
    offers = (await api.borrowOffers(content.track_id, { step: content.step_id, note_ids: noteIds })).offers;
  });
  return offers;
}

/** Take what was tried, and choose the notes that came along. */
export async function takeBorrow(operation: Borrow): Promise<boolean> {
  const before = new Set(store.getState().content?.notes.map((note) => note.id));
  dropPreview();
  const done = await edit(operation);
  const brought = (store.getState().content?.notes ?? []).filter((note: NoteOut) => !before.has(note.id));
  if (done) store.setState({ selection: new Set(brought.map((note) => note.id)) });
  return done;
}

/** Choose a flagged note and look for places to borrow its word from, the same words first. */
export function borrowBetter({ note_id }: BetterOut): void {
  store.setState({ selection: new Set([note_id]), airSelection: new Set(), window: "borrow" });
}

export function giveBack(borrowId: string): void {
  void edit({ type: "give_back", borrow_ids: [borrowId] });
}
