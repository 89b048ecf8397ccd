/** The words of the open track on its notes, asked for whenever its notes are cut otherwise or its words are others. */

import { useEffect, useState } from "react";
import { betterWords, loadSyllables, wordsAbout } from "../commands/lyrics/syllables";
import { type SungOn, sungOn } from "../document/lyrics/lyrics";
import type { BetterOut, NoteOut } from "../document/schema";
import { store } from "../document/track/store";
import { useEditor } from "../session/useStore";

export function useSyllables(): void {
  const about = useEditor(wordsAbout);
  useEffect(() => {
    if (store.getState().syllablesFor !== about) void loadSyllables();
  }, [about]);
}

const NO_NOTES: readonly NoteOut[] = [];

/** What is sung on each note of the open track. */
export function useSung(): Map<string, SungOn> {
  const syllables = useEditor((s) => s.syllables);
  const notes = useEditor((s) => s.content?.notes) ?? NO_NOTES;
  return sungOn(notes, syllables);
}

const NONE: ReadonlyMap<string, BetterOut> = new Map();

/** For flagged notes of the open track, where their word is sung better; asked for while it is to be seen. */
export function useBetter(): ReadonlyMap<string, BetterOut> {
  const [found, setFound] = useState(NONE);
  const about = useEditor((s) => `${s.trackId} ${s.content?.step_id} ${s.syllables.length > 0}`);
  useEffect(() => {
    let here = true;
    void betterWords().then((better) => {
      if (here) setFound(new Map(better.map((one) => [one.note_id, one])));
    });
    return () => {
      here = false;
    };
  }, [about]);
  return found;
}
