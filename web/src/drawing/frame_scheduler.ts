/** The page's one animation-frame loop: painters run at most once a frame, and only when asked. */

type Painter = () => void;

const waiting = new Set<Painter>();
let frame = 0;

function run(): void {
  frame = 0;
  const now = [...waiting];
  waiting.clear();
  for (const paint of now) paint();
}

/** Ask for `paint` in the next frame. */
export function requestPaint(paint: Painter): void {
  waiting.add(paint);
  if (frame === 0) frame = requestAnimationFrame(run);
}

/** Forget a painter that is going away. */
export function cancelPaint(paint: Painter): void {
  waiting.delete(paint);
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
