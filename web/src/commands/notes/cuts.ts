/** How sure the borders between notes are, while somebody looks. */

import { useEffect } from "react";
import { api } from "../../api/client";
import type { CutOut } from "../../document/schema";
import { store } from "../../document/track/store";
import { report } from "../../session/report";
import { useEditor } from "../../session/useStore";

/** The borders of the open version, shown on the sheet as long as this is used. */
export function useCuts(): readonly CutOut[] {
  const trackId = useEditor((s) => s.trackId);
  const step = useEditor((s) => s.content?.step_id);
  useEffect(() => {
    if (!trackId || !step) return;
    void report(async () => {
      const { cuts } = await api.cuts(trackId, step);
      if (store.getState().content?.step_id === step) store.setState({ cuts });
    }, "The cuts");
    return () => store.setState({ cuts: [] });
  }, [trackId, step]);
  return useEditor((s) => s.cuts);
}
