import { RowColumns } from "../../../core/sqlite/rows/row-columns.ts";
import { database } from "../../kept/database.ts";
import { KeptChunk, KeptStore } from "../../kept/kept-rows.ts";

/** Chunks asked for at once: the database is asked twenty times for a million rows. */
const AT_ONCE = 12;

/** The rows of a database as its scan kept them. Null: it kept none, not all of them yet, or none that can be understood. */
export async function keptRows(medium: number, find: string): Promise<RowColumns | null> {
  const store = KeptStore.safeParse(await database.stores.get([medium, find])).data;
  if (!store?.complete) return null;
  const rows = new RowColumns(store.tables, Math.max(1, store.rows));
  for (let number = 0; rows.length < store.rows; number += AT_ONCE) {
    const chunks = await database.rows
      .where("[medium+find+number]")
      .between([medium, find, number], [medium, find, number + AT_ONCE])
      .toArray();
    if (chunks.length === 0) return null;
    for (const chunk of chunks) {
      const known = KeptChunk.safeParse(chunk);
      if (!known.success) return null;
      rows.append(known.data);
    }
  }
  return rows.length === store.rows ? rows : null;
}
