/** Rows of the comp view: what sounds, and under it one row a version. */

export interface CompRows {
  ruler: number;
  /** the row of what sounds first, then the versions in their order */
  rows: { top: number; height: number }[];
}

const RULER = 34;
const LOWEST = 22; // two dozen versions on a small screen
const HIGHEST = 200;

export function layRows(height: number, versions: number): CompRows {
  const count = versions + 1;
  const each = Math.min(HIGHEST, Math.max(LOWEST, Math.floor((height - RULER) / count)));
  return { ruler: RULER, rows: Array.from({ length: count }, (_, i) => ({ top: RULER + i * each, height: each })) };
}

/** The row at a height: −1 for what sounds, else the version's place; null on the ruler or below all rows. */
export function rowAt(y: number, layout: CompRows): number | null {
  const found = layout.rows.findIndex(({ top, height }) => y >= top && y < top + height);
  return found < 0 ? null : found - 1;
}
