/**
 * The playhead is moved by the compositor along an animation that is set anew only when playing goes another way, so
 * that playing asks nothing of the page; while nothing plays it stands still.
 */

import { type RefObject, useEffect } from "react";
import { store } from "../document/track/store";
import { cancelPaint, requestPaint } from "../session/frame_scheduler";
import { withPitchesOf } from "../session/view";
import { layLanes, songToX, xToSong } from "../geometry/viewport";
import { transport } from "../listening/playing";

/** How far ahead the way is laid, how often it is looked at, and how far off it may be. */
const AHEAD_S = 5;
const LOOK_MS = 100;
const MOST_OFF_PX = 1;

interface Way {
  animation: Animation;
  x: number;
  perSecond: number;
  begun: number;
}

export function usePlayhead(line: RefObject<HTMLDivElement | null>): void {
  useEffect(() => {
    const element = line.current;
    const parent = element?.parentElement;
    if (!element || !parent) return;
    let way: Way | null = null;
    let timer = 0;
    const move = (): void => {
      window.clearTimeout(timer);
      const state = store.getState();
      const at = state.playing ? transport.position : state.cursor_s;
      const lanes = layLanes(parent.clientWidth, parent.clientHeight);
      const x = songToX(at, state.view, lanes);
      element.style.display = x >= lanes.gutter && x <= lanes.width ? "block" : "none";
      if (!state.playing) {
        way?.animation.cancel();
        way = null;
        element.style.transform = `translateX(${x}px)`;
        return;
      }
      way = onWay(way, x, songToX(at + 1, state.view, lanes) - x, element);
      timer = window.setTimeout(ask, Math.min(LOOK_MS, 1000 * transport.untilTurn));
      if (x > lanes.width - 20) followPlayhead(at, lanes.width);
    };
    const ask = (): void => requestPaint(move);
    const watch = new ResizeObserver(ask);
    watch.observe(parent);
    const stop = store.subscribe(ask);
    ask();
    return () => {
      stop();
      watch.disconnect();
      window.clearTimeout(timer);
      cancelPaint(move);
    };
  }, [line]);
}

/** The way the playhead is on, or a new one when that leads elsewhere. */
function onWay(way: Way | null, x: number, perSecond: number, element: HTMLElement): Way {
  const passed = way ? (performance.now() - way.begun) / 1000 : Infinity;
  const off = way ? Math.abs(way.x + way.perSecond * passed - x) : Infinity;
  if (way?.perSecond === perSecond && passed < AHEAD_S - 1 && off < MOST_OFF_PX) return way;
  way?.animation.cancel();
  const to = (pixels: number): string => `translateX(${pixels}px)`;
  const animation = element.animate([{ transform: to(x) }, { transform: to(x + perSecond * AHEAD_S) }], {
    duration: 1000 * AHEAD_S,
    fill: "forwards",
  });
  return { animation, x, perSecond, begun: performance.now() };
}

function followPlayhead(at: number, width: number): void {
  const { view } = store.getState();
  const length = view.end_s - view.start_s;
  if (at < view.end_s + length && xToSong(width, view, layLanes(width, 400)) <= at + length * 0.2) {
    store.setState({ view: withPitchesOf({ ...view, start_s: at - length * 0.06, end_s: at + length * 0.94 }) });
  }
}
