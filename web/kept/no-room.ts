/** What is told where the browser's own storage is full. */
export const NO_ROOM = "There is no room left in this browser's storage: free some, then go on.";

/** How deep one error may lie in another. */
const DEPTH = 4;

/**
 * Did something go unkept because the browser's storage is full? By the name that the W3C's Storage Standard gives it, which
 * lies inside what Dexie throws where a transaction or one of many writes failed by it.
 */
export function lacksRoom(cause: unknown, depth = DEPTH): boolean {
  if (typeof cause !== "object" || cause === null || depth === 0) return false;
  const { name, inner, failures } = cause as { name?: unknown; inner?: unknown; failures?: unknown };
  if (name === "QuotaExceededError") return true;
  return lacksRoom(inner, depth - 1) || (Array.isArray(failures) && failures.some((one) => lacksRoom(one, depth - 1)));
}

/** Why the browser did not keep something, in plain words. */
export const whyUnkept = (cause: unknown): string =>
  lacksRoom(cause) ? NO_ROOM : `This browser does not keep it: ${cause instanceof Error ? cause.message : String(cause)}`;
