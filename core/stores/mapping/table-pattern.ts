/**
 * Patterns of tables' names that a mapping may ask for: written by hand or by another program, they are tried on every name of every database. Only such
 * are taken as cannot take long: single letters and classes, some of them repeated, and one group that is what differs.
 */
const ESCAPED = String.raw`\\(?:[dDwWsS]|[^\p{L}\p{N}\s])`;
const CLASS = String.raw`\[\^?(?:${ESCAPED}|[^\\\[\]])+\]`;
const ATOM = String.raw`(?:${ESCAPED}|${CLASS}|[^\\()\[\]{}*+?|^$])`;
const TIMES = String.raw`(?:[*+?]|\{\d{1,3}(?:,\d{0,3})?\})`;
const PLAIN = new RegExp(`^\\^?(?:${ATOM}${TIMES}?)*\\((?:${ATOM}${TIMES}?)*\\)(?:${ATOM}${TIMES}?)*\\$?$`, "u");
const REPEATED = new RegExp(`${ATOM}${TIMES}`, "gu");
/** Each one more makes a name that does not fit take its length longer. */
const MOST_REPEATED = 3;

/** Is it a pattern of ECMAScript with one group, that takes no longer than a name deserves? */
export function isPlainPattern(pattern: string): boolean {
  if (!PLAIN.test(pattern) || (pattern.match(REPEATED)?.length ?? 0) > MOST_REPEATED) return false;
  try {
    new RegExp(pattern, "u");
    return true;
  } catch {
    // A range that runs backwards, a count whose end comes first.
    return false;
  }
}
