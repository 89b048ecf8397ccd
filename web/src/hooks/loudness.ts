/** Loudness and true peak of the track and of the selection, before and after. */

import { useEffect, useState } from "react";
import { api } from "../api/client";
import type { LoudnessesOut } from "../document/schema";
import { store, timesNow } from "../document/track/store";
import { sourceToTrack } from "../document/time/times";
import { reachIn } from "../commands/notes/reach";
import { report } from "../session/report";
import { useEditor } from "../session/useStore";

export interface Measured {
  track: LoudnessesOut;
  /** null when nothing is selected */
  selection: LoudnessesOut | null;
}

/** Measures whenever the edits or the selection change; null while it does. */
export function useLoudness(): Measured | null {
  const step = useEditor((s) => s.content?.step_id);
  const selection = useEditor((s) => s.selection);
  const air = useEditor((s) => s.airSelection);
  const [measured, setMeasured] = useState<{ of: unknown[]; found: Measured } | null>(null);
  useEffect(() => {
    let current = true;
    const later = window.setTimeout(() => {
      void report(async () => {
        const { content } = store.getState();
        if (!content) return;
        const reach = reachIn(store.getState(), "selection");
        const track = await api.loudness(content.track_id, content.step_id, 0, null);
        const [start_s, end_s] = reach ? [reach.start_s, reach.end_s].map((at) => sourceToTrack(at, timesNow())) : [];
        const chosen = reach ? await api.loudness(content.track_id, content.step_id, start_s!, end_s!) : null;
        if (current) setMeasured({ of: [step, selection, air], found: { track, selection: chosen } });
      });
    }, 200);
    return () => {
      current = false;
      window.clearTimeout(later);
    };
  }, [step, selection, air]);
  const fresh = measured !== null && measured.of[0] === step && measured.of[1] === selection && measured.of[2] === air;
  return fresh ? measured.found : null;
}
