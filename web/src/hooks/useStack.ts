/** The stack's canvases and the pointer on them. */

import { type RefObject, useEffect } from "react";
import { store } from "../document/track/store";
import { STACK_LAYERS, STACK_RULER, type StackData } from "../drawing/lanes/stack";
import { layLanes, type Lanes, wheelTime, xToSong } from "../geometry/viewport";
import { listen } from "../pointers/canvas_events";
import { useLayers } from "./layers";
import { isHeard, play } from "../listening/playing";
import { loadSmall } from "../commands/stack";
import { showView } from "../session/view";

function stackData(): StackData | null {
  const state = store.getState();
  const { song, inSmall, view } = state;
  if (!song) return null;
  const silent = new Set(song.tracks.flatMap((track) => (isHeard(state, track) ? [] : [track.id])));
  return { tracks: song.tracks, inSmall, view, song, silent };
}

/** A press places the cursor; the wheel goes along, with Ctrl it zooms. */
function pointer(canvas: HTMLCanvasElement): () => void {
  const placeOf = (event: MouseEvent): { song_s: number; lanes: Lanes } => {
    const box = canvas.getBoundingClientRect();
    const lanes = layLanes(box.width, box.height);
    return { song_s: xToSong(event.clientX - box.left, store.getState().view, lanes), lanes };
  };
  const down = (event: PointerEvent): void => {
    if (event.button !== 0) return;
    canvas.focus({ preventScroll: true });
    const cursor_s = Math.max(0, placeOf(event).song_s);
    store.setState({ cursor_s });
    if (store.getState().playing) void play(cursor_s);
  };
  const wheel = (event: WheelEvent): void => {
    event.preventDefault();
    const { song_s, lanes } = placeOf(event);
    showView(wheelTime(store.getState().view, lanes, song_s, event));
  };
  return listen(canvas, [
    ["pointerdown", down],
    ["wheel", wheel, { passive: false }],
  ]);
}

function usePointer(frame: RefObject<HTMLDivElement | null>): void {
  useEffect(() => {
    const canvas = frame.current?.querySelector("canvas");
    return canvas ? pointer(canvas) : undefined;
  }, [frame]);
}

/** Paints ruler and rows, and loads what they show whenever a track stands elsewhere. */
export function useStack(ruler: RefObject<HTMLDivElement | null>, rows: RefObject<HTMLDivElement | null>): void {
  useLayers(ruler, STACK_RULER, stackData);
  useLayers(rows, STACK_LAYERS, stackData);
  usePointer(ruler);
  usePointer(rows);
  useEffect(() => {
    const load = (): void => store.getState().song?.tracks.forEach((track) => void loadSmall(track));
    load();
    return store.subscribe((now, before) => now.song !== before.song && load());
  }, []);
}
