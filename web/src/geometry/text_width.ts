/** How wide text is as the canvases set it. */

export const FONT = '"Source Sans 3 Variable", "Glass Thread Accidentals", system-ui, sans-serif';

const known = new Map<string, number>();
let canvas: CanvasRenderingContext2D | null = null;

/** The width of a text in pixels, in a type as canvases name it; measured once each. */
export function textWidth(text: string, type: string): number {
  const key = `${type} ${text}`;
  const before = known.get(key);
  if (before !== undefined) return before;
  canvas ??= document.createElement("canvas").getContext("2d");
  if (!canvas) return 0;
  canvas.font = type;
  const { width } = canvas.measureText(text);
  known.set(key, width);
  return width;
}
