/** Where the note strip stands: near its note, where it covers least of the threads and of other notes. */

import { type RefObject, useEffect } from "react";
import type { NoteOut } from "../document/track/model";
import { store } from "../document/track/store";
import { cancelPaint, requestPaint } from "../drawing/frame_scheduler";
import { freePlace, type Size } from "../geometry/free_place";
import { layLanes, sourceSpan } from "../geometry/viewport";

export function useNotePlace(element: RefObject<HTMLDivElement | null>, noteId: string | null): void {
  useEffect(() => {
    const box = element.current;
    const parent = box?.parentElement;
    if (noteId === null || !box || !parent) return;
    // Sizes come from the observer, so that no frame has to lay anything out to know them.
    const sizes = { box: sizeOf(box), parent: sizeOf(parent) };
    let shown: readonly unknown[] = [];
    const place = (): void => {
      const { content, view, curves } = store.getState();
      const note = content?.notes.find((candidate) => candidate.id === noteId);
      if (!content || !note || !curves) return;
      const needs = [content, view, curves, sizes.box, sizes.parent];
      if (needs.every((value, at) => value === shown[at])) return;
      shown = needs;
      const lanes = layLanes(sizes.parent.width, sizes.parent.height);
      const { left, top } = freePlace(note, sizes.box, content.notes, curves, view, lanes);
      box.style.setProperty("transform", `translate(${Math.round(left)}px, ${Math.round(top)}px)`);
      box.style.setProperty("visibility", isSeen(note) ? "visible" : "hidden");
    };
    const ask = (): void => requestPaint(place);
    const watch = new ResizeObserver(() => {
      sizes.box = sizeOf(box);
      sizes.parent = sizeOf(parent);
      ask();
    });
    watch.observe(box);
    watch.observe(parent);
    const stop = store.subscribe(ask);
    ask();
    return () => {
      cancelPaint(place);
      watch.disconnect();
      stop();
    };
  }, [element, noteId]);
}

function sizeOf(element: HTMLElement): Size {
  return { width: element.offsetWidth, height: element.offsetHeight };
}

function isSeen(note: NoteOut): boolean {
  const [from, to] = sourceSpan(store.getState().view);
  return note.end_s > from && note.start_s < to;
}
