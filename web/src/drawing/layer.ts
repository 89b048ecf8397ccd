/** A canvas that is painted anew only when something that it shows is another object. */

import type { Theme } from "./theme";

export interface Layer<Data> {
  name: string;
  /** everything that the layer shows */
  needs: (data: Data) => readonly unknown[];
  paint: (ctx: CanvasRenderingContext2D, width: number, height: number, data: Data, theme: Theme) => void;
}

/** Size a canvas for the screen's pixels and return its context in CSS pixels. */
export function sharpContext(canvas: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D {
  const ratio = window.devicePixelRatio || 1;
  const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w;
    canvas.height = h;
  }
  const context = canvas.getContext("2d")!;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  return context;
}
