/** What a pass acts on, and the words for it. */

import { useMemo, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import type { NoteOut } from "../../document/track/model";
import type { EditorState } from "../../document/track/store";
import { songToSource } from "../../document/time/times";
import { airIn } from "./air";
import { useEditor } from "../../session/useStore";

export type ReachName = "selection" | "phrase" | "track";

export interface Reach {
  noteIds: string[];
  airIds: string[];
  start_s: number;
  end_s: number;
  words: string;
}

function count(number: number, one: string, many: string): string {
  return number === 1 ? `the selected ${one}` : `the ${number} selected ${many}`;
}

type Within = Pick<EditorState, "content" | "analysis" | "selection" | "airSelection" | "view">;

/** The notes and the time that a name stands for in a state; null when nothing is selected. */
export function reachIn(state: Within, name: ReachName): Reach | null {
  const { content, analysis, selection, view } = state;
  const notes = content?.notes ?? [];
  if (name === "track") {
    return {
      noteIds: notes.map((note) => note.id),
      airIds: [],
      start_s: 0,
      end_s: analysis?.duration_s ?? 0,
      words: `the whole track, ${notes.length} notes`,
    };
  }
  const air = airIn(state);
  if (name === "selection" && air.length > 0) {
    return {
      noteIds: [],
      airIds: air.map((event) => event.id),
      start_s: air[0]!.start_s,
      end_s: air.at(-1)!.end_s,
      words: count(air.length, "air event", "air events"),
    };
  }
  const middle = songToSource((view.start_s + view.end_s) / 2, view.times);
  const near = notes.find((note) => note.end_s > middle) ?? notes.at(-1);
  const chosen =
    name === "selection"
      ? notes.filter((note) => selection.has(note.id))
      : notes.filter((note) => note.phrase === near?.phrase);
  if (chosen.length === 0) return null;
  return {
    noteIds: chosen.map((note) => note.id),
    airIds: [],
    start_s: chosen[0]!.start_s,
    end_s: chosen.at(-1)!.end_s,
    words:
      name === "selection"
        ? count(chosen.length, "note", "notes")
        : `phrase ${(near?.phrase ?? 0) + 1}, ${chosen.length} notes`,
  };
}

/** What a name stands for now; null without a name, or when nothing is selected. */
export function useReach(name: ReachName | null): Reach | null {
  const state = useEditor(useShallow(within));
  return name && reachIn(state, name);
}

function within({ content, analysis, selection, airSelection, view }: EditorState): Within {
  return { content, analysis, selection, airSelection, view };
}

/** A choice of what a window acts on, and the notes that it stands for now. */
export function useNotesOf(first: ReachName): {
  reach: ReachName;
  setReach: (reach: ReachName) => void;
  notes: readonly NoteOut[];
} {
  const [wanted, setReach] = useState<ReachName>(first);
  const content = useEditor((s) => s.content);
  const selection = useEditor((s) => s.selection);
  const reach = wanted === "selection" && selection.size === 0 ? "phrase" : wanted;
  const ids = useReach(reach)?.noteIds.join(" ") ?? "";
  const notes = useMemo(() => {
    const named = new Set(ids.split(" "));
    return content?.notes.filter((note) => named.has(note.id)) ?? [];
  }, [content, ids]);
  return { reach, setReach, notes };
}
