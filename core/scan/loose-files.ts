import type { ByteSource } from "../bytes/source.ts";
import { isSmsBackup } from "../exports/formats.ts";
import { promisedBy, typeOf } from "../filetypes/table.ts";
import { DatabaseHeader, MAGIC } from "../sqlite/format/layout.ts";

/**
 * Is this a file that things are read from, by itself and no medium: a database by its first bytes or its name, an export, an archive of several files?
 * What is packed as one stream is none: an image may be packed so.
 */
export async function isLooseFile(source: ByteSource): Promise<boolean> {
  const head = source.size >= DatabaseHeader.size ? await source.read(0, DatabaseHeader.size) : null;
  if (head && DatabaseHeader.magic(head, 0) === MAGIC) return true;
  const { kind, holds } = promisedBy(source.name);
  if (kind === "database" || holds === "entries" || isSmsBackup(source.name)) return true;
  const type = await typeOf(source);
  return type !== null && !type.byChance && type.formats[0].opens === "zip";
}
