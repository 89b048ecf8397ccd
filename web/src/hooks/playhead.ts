/** The playhead is moved as a transform, so that playing repaints nothing; while nothing plays, no frame is asked for. */

import { type RefObject, useEffect } from "react";
import { store } from "../document/store";
import { cancelPaint, requestPaint } from "../drawing/frame_scheduler";
import { layLanes, songToX, xToSong } from "../geometry/viewport";
import { transport } from "./playing";

export function usePlayhead(line: RefObject<HTMLDivElement | null>): void {
  useEffect(() => {
    let shown: number | null = null;
    const move = (): void => {
      const element = line.current;
      const parent = element?.parentElement;
      if (!element || !parent) return;
      const state = store.getState();
      const at = state.playing ? transport.position : state.cursor_s;
      const lanes = layLanes(parent.clientWidth, parent.clientHeight);
      const x = songToX(at, state.view, lanes);
      if (x !== shown) {
        element.style.display = x >= lanes.gutter && x <= lanes.width ? "block" : "none";
        element.style.transform = `translateX(${x}px)`;
        shown = x;
      }
      if (!state.playing) return;
      if (x > lanes.width - 20) followPlayhead(at, lanes.width);
      requestPaint(move);
    };
    const ask = (): void => requestPaint(move);
    const watch = new ResizeObserver(ask);
    if (line.current?.parentElement) watch.observe(line.current.parentElement);
    const stop = store.subscribe(ask);
    ask();
    return () => {
      stop();
      watch.disconnect();
      cancelPaint(move);
    };
  }, [line]);
}

function followPlayhead(at: number, width: number): void {
  const { view } = store.getState();
  const length = view.end_s - view.start_s;
  if (at < view.end_s + length && xToSong(width, view, layLanes(width, 400)) <= at + length * 0.2) {
    store.setState({ view: { ...view, start_s: at - length * 0.06, end_s: at + length * 0.94 } });
  }
}
