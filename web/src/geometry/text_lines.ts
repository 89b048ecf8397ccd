/** Text set in a narrow column. */

/**
 * The lines of a text no wider than `room`, at most so many; what does not fit ends in “…”.  `width` measures a text.
 */
export function textLines(text: string, room: number, most: number, width: (text: string) => number): string[] {
  const lines: string[] = [];
  for (const word of text.split(/\s+/).filter(Boolean)) {
    const joined = lines.length ? `${lines.at(-1)} ${word}` : word;
    if (lines.length && width(joined) <= room) lines[lines.length - 1] = joined;
    else lines.push(word);
  }
  const cut = lines.length > most;
  return lines
    .slice(0, most)
    .map((line, i) => (cut && i === most - 1 ? `${line}…` : line))
    .map((line) => shortened(line, room, width));
}

function shortened(line: string, room: number, width: (text: string) => number): string {
  let kept = line.replace(/…$/, "");
  if (width(line) <= room) return line;
  while (kept && width(`${kept}…`) > room) kept = kept.slice(0, -1);
  return `${kept}…`;
}
