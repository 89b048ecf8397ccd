/** ♯ and ♭ come from another font than the letters and have no room of their own beside them: hair spaces give it. */
export function spaced(name: string): string {
  return name.replace(/[♯♭]/g, "\u200a$&\u200a");
}
