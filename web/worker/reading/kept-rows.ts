import { RowColumns, type RowRest, type RowRests } from "../../../core/sqlite/rows/row-columns.ts";
import { database } from "../../kept/database.ts";
import { CHUNK_ROWS, KeptChunk, KeptStore } from "../../kept/kept-rows.ts";

/** Chunks asked for at once: the database is asked eight times for a million rows. */
const AT_ONCE = 32;
/** Chunks whose rests are at hand. */
const MOST_RESTS = 8;

/** What stands in no column of a store's rows, asked for a chunk at a time. */
function restsOf(medium: number, find: string): (row: number) => Promise<RowRest | null> {
  const atHand = new Map<number, Promise<RowRests | null>>();
  const chunk = (number: number) => {
    const known = atHand.get(number) ?? database.rests.get([medium, find, number]).then((kept) => kept?.rests ?? null);
    atHand.delete(number);
    atHand.set(number, known);
    for (const oldest of atHand.keys()) if (atHand.size > MOST_RESTS) atHand.delete(oldest);
    return known;
  };
  return async (row) => (await chunk(Math.floor(row / CHUNK_ROWS)))?.get(row % CHUNK_ROWS) ?? null;
}

/** The rows of a database as its scan kept them. Null: it kept none, not all of them yet, or none that can be understood. */
export async function keptRows(medium: number, find: string): Promise<RowColumns | null> {
  const store = KeptStore.safeParse(await database.stores.get([medium, find])).data;
  if (!store?.complete) return null;
  const rows = new RowColumns(store.tables, Math.max(1, store.rows), restsOf(medium, find));
  for (let number = 0; rows.length < store.rows; number += AT_ONCE) {
    const chunks = await database.rows
      .where("[medium+find+number]")
      .between([medium, find, number], [medium, find, number + AT_ONCE])
      .toArray();
    if (chunks.length === 0) return null;
    for (const chunk of chunks) {
      const known = KeptChunk.safeParse(chunk);
      if (!known.success) return null;
      rows.append(known.data, null);
    }
  }
  return rows.length === store.rows ? rows : null;
}
