/** The page's one animation-frame loop: painters run at most once a frame, and only when asked. */

type Painter = () => void;

const LATEST_MS = 100; // a window that is covered by others has no frames
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

/** Resolves once the next frame has been painted and shown, or soon where the page is not in sight. */
export function afterPaint(): Promise<void> {
  if (document.hidden) return Promise.resolve();
  return new Promise((done) => {
    const late = window.setTimeout(done, LATEST_MS);
    requestPaint(() => {
      window.clearTimeout(late);
      const { port1, port2 } = new MessageChannel();
      port1.addEventListener("message", () => done());
      port1.start();
      port2.postMessage(null); // comes to pass after the frame
    });
  });
}
