import type { CandidatePlace } from "./candidates.ts";
import type { FileName, PageImage } from "./database-files.ts";
import type { Value } from "./record.ts";
import type { Table } from "./schema.ts";
import type { Read, Values } from "./values.ts";

/** What kind of place a row was read from. */
export type Place = "live" | "freelist page" | "freeblock" | "unallocated" | "wal" | "journal" | "stray page";

/** Where a row was read. */
export interface RowEvidence {
  readonly what: Place;
  readonly file: FileName;
  readonly page: number;
  /** Byte offset of its cell in the file. */
  readonly at: number;
}

/** How a row once was. */
export interface Version {
  readonly values: Values;
  readonly evidence: RowEvidence;
}

/** One row of a table: there, or erased. */
export interface Row {
  readonly table: Table;
  readonly state: "present" | "erased";
  readonly condition: "whole" | "damaged" | "remnant";
  readonly rowid: number | bigint | null;
  readonly values: Values;
  readonly evidence: readonly RowEvidence[];
  /** Other contents that the same row had, newest first. */
  readonly versions: readonly Version[];
}

/** What reads the values of a row that is there, when they are asked for. `at`: where its cell begins in the page. */
export interface ValueReader {
  read(bytes: Uint8Array, at: number): Read;
}

/** A row that a reader of the database sees. There may be millions: its values are read when they are asked for. */
export class LiveRow implements Row {
  readonly state = "present";
  readonly table: Table;
  readonly rowid: number | bigint | null;
  readonly versions: readonly Version[];
  readonly #image: PageImage;
  readonly #bytes: Uint8Array;
  readonly #at: number;
  readonly #reader: ValueReader;
  #read: Read | null;

  /** `read`: its values, where they were read already. */
  constructor(
    table: Table,
    rowid: number | bigint | null,
    image: PageImage,
    bytes: Uint8Array,
    at: number,
    reader: ValueReader,
    versions: readonly Version[],
    read: Read | null,
  ) {
    this.table = table;
    this.rowid = rowid;
    this.#image = image;
    this.#bytes = bytes;
    this.#at = at;
    this.#reader = reader;
    this.versions = versions;
    this.#read = read;
  }

  #values(): Read {
    this.#read ??= this.#reader.read(this.#bytes, this.#at);
    return this.#read;
  }

  get values(): Values {
    return this.#values().values;
  }

  get condition(): Row["condition"] {
    return this.#values().complete ? "whole" : "damaged";
  }

  get evidence(): readonly RowEvidence[] {
    return [{ what: "live", file: this.#image.file, page: this.#image.page, at: this.#image.at + this.#at }];
  }
}

/** The place of a row that a reader of the database does not see. */
export function evidenceOf({ image, start, how, unallocated }: CandidatePlace): RowEvidence {
  const place = { file: image.file, page: image.page, at: image.at + start };
  if (image.file !== "main" && !image.current) return { what: image.file, ...place };
  if (!image.current) return { what: "stray page", ...place };
  return { what: how === "cell" ? "freelist page" : unallocated ? "unallocated" : "freeblock", ...place };
}

/** The values of a row by column name, what is not known left out. */
export const byName = (table: Table, values: Values): Record<string, Value> =>
  Object.fromEntries(table.columns.flatMap(({ name }, index) => (values[index] === undefined ? [] : [[name, values[index] as Value]])));
