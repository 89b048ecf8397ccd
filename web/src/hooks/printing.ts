import { useEffect, useState } from "react";
import { api } from "../api/client";
import { ApiError } from "../api/errors";
import type { PrintIn, PrintSummaryOut } from "../document/schema";
import { store } from "../document/store";
import { report } from "./report";

export function usePrintSummary(): PrintSummaryOut | null {
  const [summary, setSummary] = useState<PrintSummaryOut | null>(null);
  useEffect(() => {
    const { content } = store.getState();
    if (content) void report(async () => setSummary(await api.printSummary(content.track_id, content.step_id)));
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
  const { content } = store.getState();
  if (!content) return;
  const fine = await report(async () => {
    let task = await api.print(content.track_id, { ...wanted, step: content.step_id });
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
