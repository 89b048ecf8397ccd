/** The list of steps: the way to the open version's tip, grouped by minute and phrase, and other branches. */

import { useCallback, useEffect, useState } from "react";
import { api } from "../../api/client";
import type { StepOut } from "../../document/track/model";
import type { BranchOut } from "../../document/schema";
import { store } from "../../document/track/store";
import { report } from "../../session/report";
import { useEditor } from "../../session/useStore";

export interface StepGroup {
  key: string;
  title: string;
  steps: StepOut[];
}

export interface StepList {
  groups: StepGroup[];
  branches: BranchOut[];
  head: number;
  /** loads older steps; null when all are there */
  more: (() => void) | null;
}

const MINUTE_S = 60;

function clock(at: number): string {
  const date = new Date(1000 * at);
  const today = new Date().toDateString() === date.toDateString();
  const time = date.toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit" });
  return today ? time : `${date.toLocaleDateString(undefined, { day: "numeric", month: "short" })}, ${time}`;
}

/** Steps made in the same minute on the same phrase belong together. */
export function grouped(steps: readonly StepOut[], phraseAt: (at_s: number) => number | null): StepGroup[] {
  const groups: StepGroup[] = [];
  for (const step of steps) {
    const phrase = step.at_s === null ? null : phraseAt(step.at_s);
    const key = `${Math.floor(step.created_at / MINUTE_S)}:${phrase ?? ""}`;
    const group = groups.at(-1);
    if (group?.key === key) group.steps.push(step);
    else {
      const where = phrase === null ? "" : ` · phrase ${phrase + 1}`;
      groups.push({ key, title: clock(step.created_at) + where, steps: [step] });
    }
  }
  return groups;
}

/** The steps of a version or comp. */
export function useSteps(version: string | undefined): StepList | null {
  const turn = useEditor((s) => s.stepsTurn);
  const phrases = useEditor((s) => s.analysis?.phrases);
  const [found, setFound] = useState<{ of: string; steps: StepOut[]; branches: BranchOut[]; head: number } | null>(
    null,
  );
  const of = version ?? "";
  const load = useCallback(
    async (before: number | null): Promise<void> => {
      const { trackId } = store.getState();
      if (!trackId || !of) return;
      await report(async () => {
        const { steps, branches, head_number } = await api.steps(trackId, of, before);
        setFound((old) => {
          const kept = before === null || old?.of !== of ? [] : old.steps;
          return { of, steps: [...kept, ...steps], branches, head: head_number };
        });
      });
    },
    [of],
  );
  useEffect(() => void load(null), [load, turn]);
  if (!found || found.of !== of) return null;
  const phraseAt = (at_s: number): number | null =>
    phrases?.find((phrase) => at_s >= phrase.start_s - 0.05 && at_s <= phrase.end_s + 0.05)?.index ?? null;
  const oldest = found.steps.at(-1)?.number ?? 0;
  return {
    groups: grouped(found.steps, phraseAt),
    branches: found.branches,
    head: found.head,
    more: oldest > 0 ? () => void load(oldest) : null,
  };
}
