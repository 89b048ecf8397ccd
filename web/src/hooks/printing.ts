import { useEffect, useState } from "react";
import { api } from "../api/client";
import { ApiError } from "../api/errors";
import type { PrintIn, PrintSummaryOut } from "../document/schema";
import { store } from "../document/store";
import { report } from "./report";

/** What would be printed: the comp while it is shown, else the open version. */
function printed(): { trackId: string; step: string } | null {
  const { content, comp, panel } = store.getState();
  if (!content) return null;
  return { trackId: content.track_id, step: panel === "comp" && comp ? comp.step_id : content.step_id };
}

export function usePrintSummary(): PrintSummaryOut | null {
  const [summary, setSummary] = useState<PrintSummaryOut | null>(null);
  useEffect(() => {
    const shown = printed();
    if (shown) void report(async () => setSummary(await api.printSummary(shown.trackId, shown.step)));
  }, []);
  return summary;
}

export interface PrintWork {
  share: number;
  url: string | null;
  text: string;
}

/** Print the open track and follow the work until the file is there. */
export async function printFile(wanted: PrintIn, onWork: (work: PrintWork | null) => void): Promise<void> {
  const shown = printed();
  if (!shown) return;
  const fine = await report(async () => {
    let task = await api.print(shown.trackId, { ...wanted, step: shown.step });
    while (task.state === "waiting" || task.state === "running") {
      onWork({ share: task.share, url: null, text: task.stage });
      await new Promise((resolve) => setTimeout(resolve, 250));
      task = await api.task(task.id);
    }
    if (task.state !== "done") throw new ApiError(task.message, 422);
    onWork({ share: 1, url: api.printUrl(task.id), text: `Save “${String(task.result.shown_name)}”` });
  });
  if (!fine) onWork(null);
}
