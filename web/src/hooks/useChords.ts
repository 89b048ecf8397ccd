/** The chords of the open song, asked for while they are to be seen and whenever its beats are others. */

import { useEffect } from "react";
import { useShallow } from "zustand/react/shallow";
import { api } from "../api/client";
import { store } from "../document/track/store";
import { report } from "../session/report";
import { useEditor } from "../session/useStore";

export function useChords(): void {
  const wanted = useEditor((s) => s.showsChords);
  const beats = useEditor(
    useShallow((s) => [
      s.song?.id,
      s.song?.tempo,
      s.song?.beats_per_bar,
      s.song?.beat_unit,
      s.song?.bar_one_s,
      s.song?.tonic,
      s.song?.scale,
      JSON.stringify(s.song?.tempo_changes),
      JSON.stringify(s.song?.tracks.map((one) => [one.role, one.ready, one.offset_s])),
    ]),
  );
  useEffect(() => {
    const songId = store.getState().song?.id;
    if (!wanted || !songId) return;
    store.setState({ chords: [] }); // those of another song, or on other beats
    void report(async () => {
      const { chords } = await api.chords(songId);
      if (store.getState().song?.id === songId) store.setState({ chords });
    }, "The chords");
  }, [wanted, beats]);
}
