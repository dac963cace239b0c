import { typeOfHead } from "../../core/filetypes/table.ts";
import type { Stored } from "../../core/finds/record.ts";
import { bytes } from "../shared/words.ts";

/** A value in a cell: as it is stored, data by how many bytes there are: `size` where they were cut. Undefined: not known. */
export function cellWords(value: Stored | undefined, size?: number): string {
  if (value === undefined) return "?";
  if (value === null) return "";
  return value instanceof Uint8Array ? `${bytes(size ?? value.length)} of data` : String(value);
}

/** The format of data by what they begin with, where something here can show it. Null: nothing can. */
export function shownFormat(value: Stored | undefined): string | null {
  const type = value instanceof Uint8Array ? typeOfHead(value) : null;
  const [format] = type?.formats ?? [];
  return format?.preview && !type?.byChance ? format.name : null;
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
