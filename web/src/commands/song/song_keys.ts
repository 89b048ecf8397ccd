/** Keys and tuning of the open song: what there is to choose, and what a choice would mean. */

import { useEffect, useState } from "react";
import { api } from "../../api/client";
import type { KeyChangeOut, KeysIn, ScalaOut } from "../../document/schema";
import { store } from "../../document/track/store";
import { report } from "../../session/report";
import { useAsked } from "../../session/useAsked";
import { useEditor } from "../../session/useStore";

const ASK_AFTER_MS = 200;

/** Ask once for the scales and tunings there are. */
export function useScales(): void {
  const known = useEditor((s) => s.scales);
  useEffect(() => {
    if (!known) void report(async () => store.setState({ scales: await api.scales() }), "The scales");
  }, [known]);
}

interface Told {
  asked: string;
  change: KeyChangeOut | null;
  trouble: string;
}

/** What keys or a tuning would mean, and why they cannot be; both empty until it is known. */
export function useKeyChange(keys: KeysIn): { change: KeyChangeOut | null; trouble: string } {
  const songId = useEditor((s) => s.song?.id);
  const asked = JSON.stringify(keys);
  const [told, setTold] = useState<Told>({ asked: "", change: null, trouble: "" });
  useAsked(
    songId ? `${songId} ${asked}` : null,
    ASK_AFTER_MS,
    () =>
      api.keyPreview(songId!, JSON.parse(asked) as KeysIn).then(
        (change): Told => ({ asked, change, trouble: "" }),
        (error: unknown): Told => ({ asked, change: null, trouble: error instanceof Error ? error.message : "" }),
      ),
    (answer) => setTold((old) => ({ ...answer, change: answer.change ?? old.change })),
  );
  return told.asked === asked ? told : { change: told.change, trouble: "" };
}

/** What other keys would mean, in words. */
export function keyWords(change: KeyChangeOut): string {
  const notes = (n: number): string => (n === 1 ? "1 note" : `${n} notes`);
  const elsewhere =
    change.tuned_elsewhere > 0 ? `; tuned now, ${change.tuned_elsewhere} of them would go elsewhere` : "";
  const tuned =
    change.tuned === 0 ? "No note is tuned yet." : `${notes(change.tuned)} tuned: all stay where they are${elsewhere}.`;
  return `${tuned} ${notes(change.untuned_moved)} not tuned yet get another target. The song's steps take it back.`;
}

/** Read a Scala file; null when it cannot be read, which is then said with its line. */
export async function readScala(file: File, what: "scale" | "mapping"): Promise<ScalaOut | null> {
  let read: ScalaOut | null = null;
  await report(async () => {
    read = what === "scale" ? await api.readScale(file) : await api.readMapping(file);
  }, file.name);
  return read;
}
