/** What the list of songs tells of a track, asked for once its row is in sight. */

import { type RefObject, useEffect, useState } from "react";
import { api } from "../api/client";
import type { ProgressOut, TrackOut } from "../document/schema";
import { store } from "../document/track/store";
import { settled } from "../session/changes";
import { isVocal } from "../document/track/vocals";

/** Columns of a track's outline in the list. */
export const OUTLINE_COLUMNS = 240;
const outlines = new Map<string, Promise<Uint8Array>>();

/** True once the element has been in sight. */
export function useSeen(element: RefObject<Element | null>): boolean {
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    if (!element.current || seen) return;
    const observer = new IntersectionObserver((entries) => {
      if (entries.some((entry) => entry.isIntersecting)) setSeen(true);
    });
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [element, seen]);
  return seen;
}

/** Levels of a track, 0 to 127, in equal parts; null until they are there. */
export function useOutline(trackId: string, wanted: boolean): Uint8Array | null {
  const [outline, setOutline] = useState<Uint8Array | null>(null);
  useEffect(() => {
    if (!wanted) return;
    let asked = outlines.get(trackId);
    if (!asked) {
      asked = api.outline(trackId, OUTLINE_COLUMNS).then((bytes) => new Uint8Array(bytes));
      outlines.set(trackId, asked);
    }
    asked.then(setOutline, () => outlines.delete(trackId)); // a row without its outline is a row all the same
  }, [trackId, wanted]);
  return outline;
}

/** Have the list of songs say how far a track is by now; what was known before stays until then. */
export function useProgress(track: TrackOut, wanted: boolean): void {
  const vocal = isVocal(track);
  useEffect(() => {
    if (wanted && vocal) {
      settled()
        .then(() => api.progress(track.id))
        .then(
          (progress) => putProgress(track.id, progress),
          () => undefined,
        );
    }
  }, [track.id, vocal, wanted]);
}

function putProgress(trackId: string, progress: ProgressOut): void {
  store.setState({ progress: { ...store.getState().progress, [trackId]: progress } });
}
