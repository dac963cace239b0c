import type { FoundRecord, Stored } from "../../../core/finds/record.ts";
import { bytes } from "../../shared/words.ts";
import type { ShownRow } from "./tables-protocol.ts";

/** Letters of a text that a screen is handed: longer ones hold it up, and nobody reads them there. */
export const SHOWN_LETTERS = 64 * 1024;
/** Of data only what they begin with is looked at by a screen: it tells what they are. */
const SHOWN_BYTES = 4096;

function shown(value: Stored): Stored {
  if (typeof value === "string" && value.length > SHOWN_LETTERS)
    return `${value.slice(0, SHOWN_LETTERS)}…\n(these are the first ${bytes(SHOWN_LETTERS)} of about ${bytes(value.length)}; the file itself has all of it)`;
  return value instanceof Uint8Array && value.length > SHOWN_BYTES ? value.slice(0, SHOWN_BYTES) : value;
}

const columnsOf = (columns: Readonly<Record<string, Stored>>): Record<string, Stored> =>
  Object.fromEntries(Object.entries(columns).map(([name, value]) => [name, shown(value)]));

const isLong = (value: Stored): boolean =>
  typeof value === "string" ? value.length > SHOWN_LETTERS : value instanceof Uint8Array && value.length > SHOWN_BYTES;

/** A row as a screen is handed it: long texts by their first letters, data by their first bytes. */
export function forScreen(row: FoundRecord): ShownRow {
  const versions = row.versions ?? [];
  if (![row.columns, ...versions.map(({ columns }) => columns)].some((columns) => Object.values(columns).some(isLong))) return row;
  const { values: _, ...rest } = row;
  return {
    ...rest,
    columns: columnsOf(row.columns),
    sizes: Object.fromEntries(
      Object.entries(row.columns).flatMap(([name, value]) => (value instanceof Uint8Array ? [[name, value.length]] : [])),
    ),
    ...(row.versions && { versions: versions.map((version) => ({ ...version, columns: columnsOf(version.columns) })) }),
  };
}
