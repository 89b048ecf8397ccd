/** Listening to a canvas, and to keys before anyone else hears them. */

type Handler = [string, (event: never) => void, AddEventListenerOptions?];

/** Connect handlers of a canvas and one for keys of the window; returns what disconnects them. */
export function listen(
  canvas: HTMLCanvasElement,
  handlers: readonly Handler[],
  onKey: (event: KeyboardEvent) => void = () => undefined,
): () => void {
  for (const [name, handler, options] of handlers) canvas.addEventListener(name, handler as EventListener, options);
  window.addEventListener("keydown", onKey, true);
  return () => {
    for (const [name, handler] of handlers) canvas.removeEventListener(name, handler as EventListener);
    window.removeEventListener("keydown", onKey, true);
  };
}
