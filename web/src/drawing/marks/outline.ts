/** A whole track small, for lists. */

/** Levels from 0 to 127 as bars about a middle line, in device pixels. */
export function drawOutline(
  ctx: CanvasRenderingContext2D,
  width: number,
  height: number,
  levels: Uint8Array,
  colour: string,
): void {
  ctx.clearRect(0, 0, width, height);
  ctx.fillStyle = colour;
  const loudest = Math.max(1, ...levels);
  for (let x = 0; x < width; x++) {
    const from = Math.floor((x / width) * levels.length);
    const to = Math.max(from + 1, Math.floor(((x + 1) / width) * levels.length));
    let level = 0;
    for (let i = from; i < to; i++) level = Math.max(level, levels[i] ?? 0);
    const half = Math.max(0.5, (level / loudest) * (height / 2 - 1));
    ctx.fillRect(x, Math.round(height / 2 - half), 1, Math.max(1, Math.round(2 * half)));
  }
}
