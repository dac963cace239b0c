import { z } from "zod";
import { type Find, KINDS } from "../finds/find.ts";

/** What a scan goes over: narrower is quicker, and what was left out can be gone over later. */
export const Scope = z.object({
  /** These kinds alone, or all. *database* stands for what people mean by rows too: messages, contacts, calls, dates. */
  kinds: z.array(z.enum(KINDS)).readonly().nullable(),
  /** What still is where it was is left alone, but for databases: erased rows lie in those that are present. */
  erasedOnly: z.boolean().default(false),
});
export type Scope = z.infer<typeof Scope>;

type Kind = Find["kind"];
type Kinded = Pick<Find, "kind" | "state">;

export const EVERYTHING_THERE: Scope = { kinds: null, erasedOnly: false };

/** Does it go over a kind at all? */
export const asksFor = ({ kinds }: Scope, kind: Kind): boolean => kinds === null || kinds.includes(kind);

/** Are rows of databases and entries of exports asked for? */
export const asksForRecords = (scope: Scope): boolean => asksFor(scope, "database");

/** Is a find told, or only known to the scan? */
export const isTold = (scope: Scope, { kind, state }: Kinded): boolean =>
  asksFor(scope, kind) && (!scope.erasedOnly || state !== "present" || kind === "database");

/**
 * Is a file on a list looked into? What is erased always is: what one of them is decides what another can be. Databases and archives
 * are, for what lies in them; photos where films are asked for, since phones put those behind them.
 */
export const isLookedInto = (scope: Scope, { kind, state }: Kinded): boolean =>
  state !== "present" ||
  kind === "database" ||
  kind === "archive" ||
  (!scope.erasedOnly && (asksFor(scope, kind) || (kind === "photo" && asksFor(scope, "video"))));

/** Is a file in an archive unpacked, by what its name promises? One that promises nothing may be anything. */
export function isUnpacked(scope: Scope, { kind, state }: Kinded): boolean {
  if (scope.erasedOnly && state === "present") return asksForRecords(scope) && (kind === "database" || kind === "other");
  return kind === "other" || asksFor(scope, kind);
}

const isSame = (one: Scope, other: Scope): boolean => isWithin(one, other) && isWithin(other, one);

/** Does the second go over all that the first one goes over? */
function isWithin(one: Scope, other: Scope): boolean {
  if (other.erasedOnly && !one.erasedOnly) return false;
  return other.kinds === null || (one.kinds?.every((kind) => other.kinds?.includes(kind)) ?? false);
}

/** How what is asked for stands to what is covered. */
export const compared = (covered: Scope, asked: Scope): "same" | "wider" | "other" =>
  isSame(covered, asked) ? "same" : isWithin(covered, asked) ? "wider" : "other";
