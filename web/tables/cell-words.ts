import type { Stored } from "../../core/finds/record.ts";
import { bytes } from "../shared/words.ts";

/** A value in a cell: as it is stored, bytes by how many there are. Undefined: not known. */
export function cellWords(value: Stored | undefined): string {
  if (value === undefined) return "?";
  if (value === null) return "";
  return value instanceof Uint8Array ? `${bytes(value.length)} of data` : String(value);
}

/** A number that counts milliseconds or seconds since 1970 in this century, as the day that it would be; else null. */
export function asMoment(value: Stored | undefined): string | null {
  if (typeof value !== "number") return null;
  const instant =
    value > 946_684_800_000 && value < 4_102_444_800_000 ? value : value > 946_684_800 && value < 4_102_444_800 ? value * 1000 : null;
  return instant === null
    ? null
    : new Date(instant)
        .toISOString()
        .replace("T", " ")
        .replace(/\.\d+Z$/, " UTC");
}

/** Each place in plain words. */
export const PLACE_WORDS: Record<string, string> = {
  live: "in its table, as the phone sees it",
  "freelist page": "on a page that was given up and not used again",
  freeblock: "in a freed place between other rows",
  unallocated: "in what a page keeps from before it was rebuilt",
  wal: "in the write-ahead log, as the page was then",
  journal: "in the rollback journal, as the page was before",
  "stray page": "on a page that no reader of the database sees any more",
};
