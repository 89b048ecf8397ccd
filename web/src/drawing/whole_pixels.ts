/** A filled rectangle on whole pixels: several times as fast to rasterise as one whose edges are smoothed. */
export function fillWhole(ctx: CanvasRenderingContext2D, x: number, y: number, width: number, height: number): void {
  const left = Math.round(x);
  const top = Math.round(y);
  ctx.fillRect(left, top, Math.max(1, Math.round(x + width) - left), Math.max(1, Math.round(y + height) - top));
}
