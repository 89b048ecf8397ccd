/** Flags: which are looked at, and which are judged to be meant. */

import type { NoteOut, Operation } from "../../document/track/model";
import { store } from "../../document/track/store";
import { edit, editSelection, selectedNotes } from "./editing";

/** Look at the flags of one kind, or of every kind. */
export function showFlags(flagKind: string | null): void {
  store.setState({ flagKind });
}

export function showLeft(leftPanel: "phrases" | "flags"): void {
  store.setState({ leftPanel });
}

/** Take the flags of a note off because they are meant; of one kind, or all it has. */
export function meanSo(note: NoteOut, kind: string | null): void {
  void edit({ type: "mean_so", note_ids: [note.id], kinds: kinds(kind === null ? note.flags : [{ kind }]) });
}

type Kinds = Extract<Operation, { type: "mean_so" }>["kinds"];

function kinds(flags: readonly { kind: string }[]): Kinds {
  return [...new Set(flags.map((flag) => flag.kind))] as Kinds;
}

/** Let the flags of a note be shown again. */
export function flagAgain(note: NoteOut): void {
  void edit({ type: "mean_so", note_ids: [note.id], meant: false });
}

/** The flags that the selection has are meant. */
export function meanSelection(): void {
  const flags = selectedNotes().flatMap((note) => note.flags);
  if (flags.length > 0) void editSelection({ type: "mean_so", kinds: kinds(flags) });
}
