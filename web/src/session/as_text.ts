/** Values of the state in one text each, to tell whether two are alike. */

const known = new WeakMap<object, string>();

/** A value that never changes as a text; worked out once, however often it is asked for. */
export function asText(value: object | null | undefined): string {
  if (!value) return "";
  const before = known.get(value);
  if (before !== undefined) return before;
  const text = JSON.stringify(value);
  known.set(value, text);
  return text;
}
