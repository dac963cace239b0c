import { z } from "zod";
import type { PhoneReport } from "./adb/phone-report.ts";

/**
 * What tells one phone from another. A serial alone does not: cheap series share one, and a board that was changed brings its own.
 * Null: it was not told.
 */
export const PhoneIdentity = z.object({
  serial: z.string(),
  maker: z.string().nullable(),
  model: z.string().nullable(),
  build: z.string().nullable(),
  /** Fingerprint of the computer's key that it lets in; null where another program holds the connection. */
  key: z.string().nullable(),
  /** Bytes of its own storage. */
  storage: z.number().nullable(),
});
export type PhoneIdentity = z.infer<typeof PhoneIdentity>;

/** Each mark in words, in the order in which they are asked. */
const WORDS: readonly (readonly [keyof PhoneIdentity, string])[] = [
  ["serial", "serial"],
  ["maker", "maker"],
  ["model", "model"],
  ["build", "build code"],
  ["storage", "storage size"],
  ["key", "allowed key"],
];

export const identityOf = (report: PhoneReport, serial: string, key: string | null): PhoneIdentity => ({
  serial,
  maker: report.maker,
  model: report.model,
  build: report.buildCode,
  key,
  storage: report.storage?.size ?? null,
});

/** The first mark in which two phones differ, in plain words, or null. A mark that one of them did not tell says nothing. */
export function differenceOf(was: PhoneIdentity, is: PhoneIdentity): string | null {
  for (const [mark, word] of WORDS)
    if (was[mark] !== null && is[mark] !== null && was[mark] !== is[mark]) return `its ${word} is ${is[mark]}, and was ${was[mark]}`;
  return null;
}
