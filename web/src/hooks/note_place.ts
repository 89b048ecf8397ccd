/** Where the note strip stands: near its note in free room, or docked below the lanes where there is none. */

import { type RefObject, useEffect, useRef, useState } from "react";
import type { NoteOut } from "../document/track/model";
import { store } from "../document/track/store";
import { cancelPaint, requestPaint } from "../session/frame_scheduler";
import { freePlace, type Size } from "../geometry/free_place";
import { layLanes, sourceSpan } from "../geometry/viewport";

/** Places a strip, and tells whether it is docked. */
export function useNotePlace(element: RefObject<HTMLDivElement | null>, noteId: string | null): boolean {
  const [docked, setDocked] = useState(false);
  const free = useRef<Size | null>(null); // how large it is in free room
  useEffect(() => {
    const box = element.current;
    const parent = box?.parentElement;
    if (noteId === null || !box || !parent) return;
    // Sizes come from the observer, so that no frame has to lay anything out to know them.
    const sizes = { box: sizeOf(box), parent: sizeOf(parent) };
    let shown: readonly unknown[] = [];
    const place = (): void => {
      const { content, view, curves, laneSizes } = store.getState();
      const note = content?.notes.find((candidate) => candidate.id === noteId);
      if (!content || !note || !curves) return;
      const needs = [content, view, curves, laneSizes, sizes.box, sizes.parent];
      if (needs.every((value, at) => value === shown[at])) return;
      shown = needs;
      const lanes = layLanes(sizes.parent.width, sizes.parent.height, laneSizes);
      const size = free.current ?? sizes.box;
      const at = freePlace(note, size, content.notes.filter(isSeen), curves, view, lanes);
      setDocked(at === null);
      box.style.setProperty("transform", at && `translate(${Math.round(at.left)}px, ${Math.round(at.top)}px)`);
      box.style.setProperty("visibility", isSeen(note) ? "visible" : "hidden");
    };
    const ask = (): void => requestPaint(place);
    const watch = new ResizeObserver(() => {
      sizes.box = sizeOf(box);
      if (box.dataset.docked === undefined) free.current = sizes.box;
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
  return docked;
}

function sizeOf(element: HTMLElement): Size {
  return { width: element.offsetWidth, height: element.offsetHeight };
}

function isSeen(note: NoteOut): boolean {
  const [from, to] = sourceSpan(store.getState().view);
  return note.end_s > from && note.start_s < to;
}
