import type { Facts } from "./facts.ts";
import type { Intake } from "./intake.ts";
import { type Way, waysIn } from "./ways.ts";

/** What of a phone's storage its ways in lead to, and how they stand. */
export type Reach = "open" | "unclear" | "closed";

/** Ways that lead to private databases and raw blocks. */
const TO_BLOCKS = ["rooted", "recovery", "bootloader"];
/** Ways that lead to the shared storage and to what the system's own providers tell; the last three lead to one of the first. */
const TO_SHARED = ["files", "debugging", "allowed computer", "mouse", "download", "screen"];

const best = (ways: readonly Way[], ids: readonly string[]): Reach => {
  const standings = ways.filter(({ id }) => ids.includes(id)).map(({ standing }) => standing);
  return standings.includes("open") ? "open" : standings.includes("unclear") ? "unclear" : "closed";
};

/** How far the ways in lead, as they stand now. Who reaches blocks reaches shared storage too. */
export function reachOf(intake: Intake, facts: Facts): { readonly blocks: Reach; readonly shared: Reach } {
  const ways = waysIn(intake, facts);
  return { blocks: best(ways, TO_BLOCKS), shared: best(ways, [...TO_BLOCKS, ...TO_SHARED]) };
}
