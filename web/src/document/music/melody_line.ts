/** Lines drawn over notes, as the pitch that each note is to have. */

type Line = readonly (readonly [number, number])[];

const SAMPLES = 9;

function valueAt(line: Line, at: number): number | null {
  if (line.length === 0 || at < line[0]![0] || at > line.at(-1)![0]) return null;
  const next = line.findIndex(([time]) => time >= at);
  if (next <= 0) return line[0]![1];
  const [[t0, p0], [t1, p1]] = [line[next - 1]!, line[next]!];
  return t1 > t0 ? p0 + ((at - t0) / (t1 - t0)) * (p1 - p0) : p1;
}

/** The pitch that lines have over most of a stretch, the latest line first; null where none is drawn. */
export function lineAt(lines: readonly Line[], start_s: number, end_s: number): number | null {
  const found: number[] = [];
  for (let i = 0; i < SAMPLES; i++) {
    const at = start_s + ((i + 0.5) / SAMPLES) * (end_s - start_s);
    const value = lines
      .map((line) => valueAt(line, at))
      .filter((one) => one !== null)
      .at(-1);
    if (value !== undefined) found.push(value);
  }
  if (2 * found.length < SAMPLES) return null;
  return found.sort((a, b) => a - b)[Math.floor(found.length / 2)]!;
}
