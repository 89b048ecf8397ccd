/**
 * Has the sound loaded where playing would begin, so that a press of Play is heard at once; and, once nothing has
 * changed for a while, what is in sight and what follows the cursor.
 */

import { useEffect } from "react";
import { store } from "../document/track/store";
import { hearingStart, partsNow, playStart, songEnd, transport } from "../listening/playing";

/** How much is loaded of what is in sight, and after the cursor; in pieces, the later the longer. */
const IN_SIGHT_S = 40;
const ON_S = 120;
const SHORTEST_S = 1;
const LONGEST_S = 8;
/** Of all tracks that sound, so that what was loaded first is still there. */
const MOST_TRACK_S = 240;
/** While edit follows edit, the next one would undo most of what was rendered after the last. */
const UNCHANGED_MS = 1200;

/** What decides which sound that is. */
function deciding(): readonly unknown[] {
  const state = store.getState();
  return [
    state.content?.step_id,
    state.cursor_s,
    state.loop,
    state.selection,
    state.airSelection,
    state.listening,
    state.backing,
    state.others,
    state.panel,
    state.melodyAlong,
    state.soloed,
    state.song,
    state.view.start_s,
    state.view.end_s,
  ];
}

/** From where, and for how many seconds at least. */
type Stretch = readonly [number, number];

/** Where playing would begin. */
function beginnings(): Stretch[] {
  return [playStart(), hearingStart()].filter((at) => at !== null).map((at): Stretch => [at, 0]);
}

/** What is in sight, then what follows the cursor. */
function further(): Stretch[] {
  const { view, cursor_s } = store.getState();
  const found: Stretch[] = [];
  const seen = cursor_s >= view.start_s && cursor_s < view.end_s;
  const from = seen && view.end_s - view.start_s > IN_SIGHT_S ? cursor_s : view.start_s;
  const most = MOST_TRACK_S / (2 * Math.max(1, partsNow().length));
  const add = (start: number, end: number): void => {
    const first = Math.max(0, start);
    for (let at = first; at < end; at += found.at(-1)![1]) {
      const length = Math.min(LONGEST_S, Math.max(SHORTEST_S, at - first));
      found.push([at, Math.min(length, end - at)]);
    }
  };
  add(from, Math.min(view.end_s, from + Math.min(IN_SIGHT_S, most)));
  add(cursor_s, Math.min(songEnd(), cursor_s + Math.min(ON_S, most)));
  return found;
}

/** Load one stretch after the other; false when something came between. */
async function load(stretches: Stretch[], moved: () => boolean): Promise<boolean> {
  for (const [at, seconds] of stretches) {
    // what fails here fails again, and is said, when it is to be played
    const came = await transport.prepare(partsNow(), at, seconds, true).then(
      () => true,
      () => false,
    );
    if (!came || store.getState().playing || moved()) return false;
  }
  return true;
}

export function useReadyToPlay(): void {
  useEffect(() => {
    let done: readonly unknown[] = [];
    let busy = false;
    let timer: number | undefined;
    let here = true;
    const moved = (): boolean => deciding().some((value, i) => value !== done[i]);
    const look = async (): Promise<void> => {
      if (busy) return;
      busy = true;
      while (!store.getState().playing && moved()) {
        window.clearTimeout(timer);
        done = deciding();
        if ((await load(beginnings(), moved)) && here) timer = window.setTimeout(() => void goOn(), UNCHANGED_MS);
      }
      busy = false;
    };
    const goOn = async (): Promise<void> => {
      if (busy || store.getState().playing || moved()) return;
      busy = true;
      await load(further(), moved);
      busy = false;
      await look(); // what came between
    };
    void look();
    const stop = store.subscribe(() => void look());
    return () => {
      here = false;
      stop();
      window.clearTimeout(timer);
    };
  }, []);
}
