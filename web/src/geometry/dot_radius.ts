const ROUND = 1.25; // an axis from one round value to another is so much longer than what lies on it

/** The largest radius up to `most` at which dots at these values, piled up where they meet, stay within a height. */
export function dotRadius(values: readonly number[], width_px: number, height_px: number, most = 2.6): number {
  const sorted = [...values].sort((a, b) => a - b);
  const span = sorted.length > 0 ? sorted.at(-1)! - sorted[0]! : 0;
  const perPixel = (ROUND * span) / width_px;
  for (let radius = most; radius > 1; radius -= 0.1) {
    let [first, fullest] = [0, 0];
    sorted.forEach((value, i) => {
      while (value - sorted[first]! > 2 * radius * perPixel) first += 1;
      fullest = Math.max(fullest, i - first + 1);
    });
    if (fullest * 2 * radius <= height_px) return radius;
  }
  return 1;
}
