/** The chords of the open song, asked for while they are to be seen or kept to and whenever they may be others. */

import { useEffect } from "react";
import { useShallow } from "zustand/react/shallow";
import { loadChords } from "../commands/voices/chords";
import { chordAt } from "../document/music/chord_place";
import type { ChordOut, NoteOut } from "../document/schema";
import { sourceToSong } from "../document/time/times";
import { store, type WindowName } from "../document/track/store";
import { asText } from "../session/as_text";
import { useEditor } from "../session/useStore";

const KEEP_TO_THEM: ReadonlySet<WindowName | null> = new Set<WindowName>(["harmony", "chords", "pure"]);

export function useChords(): void {
  const wanted = useEditor((s) => s.showsChords || KEEP_TO_THEM.has(s.window));
  const beats = useEditor(
    useShallow((s) => [
      s.song?.id,
      s.song?.tempo,
      s.song?.beats_per_bar,
      s.song?.beat_unit,
      s.song?.bar_one_s,
      s.song?.tonic,
      s.song?.scale,
      asText(s.song?.chords),
      asText(s.song?.tempo_changes),
      JSON.stringify(s.song?.tracks.map((one) => [one.role, one.ready, one.offset_s])),
    ]),
  );
  useEffect(() => {
    if (!wanted || !store.getState().song) return;
    void loadChords();
  }, [wanted, beats]);
}

/** The chord that sounds in the middle of a note, while chords are shown. */
export function useChordOf({ start_s, end_s }: Pick<NoteOut, "start_s" | "end_s">): ChordOut | undefined {
  const chords = useEditor((s) => s.chords);
  const shown = useEditor((s) => s.showsChords);
  const times = useEditor((s) => s.view.times);
  return shown ? chordAt(chords, sourceToSong((start_s + end_s) / 2, times)) : undefined;
}
