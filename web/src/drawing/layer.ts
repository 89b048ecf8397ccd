/** A canvas that is painted anew only when something that it shows is another object. */

import type { Theme } from "./theme";

export interface Layer<Data> {
  name: string;
  /** everything that the layer shows */
  needs: (data: Data) => readonly unknown[];
  paint: (ctx: CanvasRenderingContext2D, width: number, height: number, data: Data, theme: Theme) => void;
}
