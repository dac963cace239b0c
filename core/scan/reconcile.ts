import type { Patch } from "../finds/find.ts";
import type { Claims } from "./claims.ts";

/**
 * Reconcile: entries whose format nothing checks are held against what was proven since. Where the bytes are another
 * item's from head to end, they are not theirs.
 */
export function reconcile(claims: Claims): Patch[] {
  const patches: Patch[] = [];
  for (const { id, extents } of claims.unproven) {
    const taken = claims.takenOf(extents);
    if (taken.bytes === 0) continue;
    const because = `${taken.bytes} of its ${taken.of} bytes belong to another item that was checked to its end`;
    patches.push({
      id,
      condition: taken.head ? "remnant" : "damaged",
      because,
      evidence: [{ pass: "reconcile", what: because, at: extents[0].offset }],
    });
  }
  return patches;
}
