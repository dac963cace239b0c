import type { ByteSource } from "../bytes/source.ts";
import { isSmsBackup } from "../exports/formats.ts";
import { promisedBy } from "../filetypes/table.ts";
import { DatabaseHeader, MAGIC } from "../sqlite/format/layout.ts";

/** Is this a file that records are read from, by itself and no medium: a database by its first bytes or its name, or an export? */
export async function isLooseFile(source: ByteSource): Promise<boolean> {
  const head = source.size >= DatabaseHeader.size ? await source.read(0, DatabaseHeader.size) : null;
  if (head && DatabaseHeader.magic(head, 0) === MAGIC) return true;
  const { kind, holds } = promisedBy(source.name);
  return kind === "database" || holds === "entries" || isSmsBackup(source.name);
}
