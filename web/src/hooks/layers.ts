/** Canvases that follow the state. */

import { type RefObject, useEffect } from "react";
import { store } from "../document/track/store";
import { cancelPaint, requestPaint } from "../session/frame_scheduler";
import { type Layer, sharpContext } from "../drawing/layer";
import { DAYLIGHT, NIGHT, type Theme } from "../drawing/theme";

function themeNow(): Theme {
  return store.getState().night ? NIGHT : DAYLIGHT;
}

/** Keeps the canvases of a frame painted, one a layer, each only when what it shows has changed. */
export function useLayers<Data>(
  frame: RefObject<HTMLDivElement | null>,
  layers: readonly Layer<Data>[],
  dataNow: () => Data | null,
): void {
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const canvases = [...element.querySelectorAll("canvas")];
    const shown = new Map<Layer<Data>, readonly unknown[]>();
    const draw = (): void => {
      const { clientWidth: w, clientHeight: h } = element;
      const data = dataNow();
      if (w === 0 || h === 0 || !data) return;
      const theme = themeNow();
      layers.forEach((layer, i) => {
        const needs = [w, h, window.devicePixelRatio, theme, fontsTurn, ...layer.needs(data)];
        const before = shown.get(layer);
        if (before?.every((value, at) => value === needs[at])) return;
        shown.set(layer, needs);
        const ctx = sharpContext(canvases[i]!, w, h);
        ctx.clearRect(0, 0, w, h);
        layer.paint(ctx, w, h, data, theme);
      });
    };
    const ask = (): void => requestPaint(draw);
    const watch = new ResizeObserver(ask);
    watch.observe(element);
    const stop = store.subscribe(ask);
    void document.fonts.ready.then(() => {
      fontsTurn += 1;
      ask();
    });
    ask();
    return () => {
      stop();
      watch.disconnect();
      cancelPaint(draw);
    };
  }, [frame, layers, dataNow]);
}

/** Counts up when fonts have come, so that words are drawn anew in theirs. */
let fontsTurn = 0;
