import { findsIn, sumOf } from "../kept/kept-scan.ts";
import type { SourceRef } from "../kept/medium.ts";
import type { ShownScan } from "./session-state.ts";

/** Where nothing erased can be, why, and what would have it: a technician must not take it for "nothing is left". Null: erased things are there, or can be. */
export function whyNoErased(scan: ShownScan, source: Pick<SourceRef, "kind"> | null): string | null {
  if (sumOf(scan.counts, "erased") > 0 || scan.status !== "done" || !source) return null;
  if (scan.volumes.length > 0 && scan.volumes.every(({ filesystem }) => filesystem === "tar archive")) {
    if (source.kind === "copy" || source.kind === "phone") return "Shared storage holds no erased things; a raw partition would.";
    if (source.kind === "folder") return "A folder holds no erased things; an image of the whole card would.";
    return "An archive or backup holds no erased files; rows that were deleted in its databases are told there.";
  }
  if (scan.volumes.length > 0 && scan.volumes.every(({ encryption }) => encryption !== null))
    return "What is encrypted as a whole gives nothing without its key.";
  if (scan.depth === "quick") return "A quick scan looks at lists only; a deep one searches all free space.";
  if (scan.scope.kinds) return "Nothing erased of the kinds that were gone over; the rest can be gone over too.";
  return findsIn(scan.counts) === 0 ? null : "All free space was searched: nothing that can be known is left in it.";
}
