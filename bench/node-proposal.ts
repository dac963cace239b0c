import { open, stat } from "node:fs/promises";
import { handleSource } from "../core/bytes/handle-source.ts";
import { DatabaseFiles } from "../core/sqlite/files/database-files.ts";
import { recoverRows } from "../core/sqlite/recover.ts";
import { KNOWN_TABLES } from "../core/sqlite/tables/known-tables.ts";
import { Gathered } from "../core/stores/gathered.ts";
import { propose } from "../core/stores/mapping/propose.ts";

/** Run as a process of its own: how long it takes to see what a database means, once its rows were read. */
const [path] = process.argv.slice(2);
const { size } = await stat(path);
const handle = await open(path, "r");
const files = await DatabaseFiles.open({ main: handleSource(handle, size, path, (length) => Buffer.allocUnsafeSlow(length)) });
if (!files) throw new Error(`${path} is no database`);
const gathered = new Gathered("e0", path);
const started = performance.now();
for await (const { rows } of recoverRows(files, KNOWN_TABLES, new AbortController().signal)) gathered.take(rows);
const read = performance.now();
const proposed = propose(gathered);
if (!proposed || proposed.mapping.sureness < 0.8)
  throw new Error(`it was not seen to be a messenger: ${JSON.stringify(proposed?.mapping)}`);
process.stdout.write(
  JSON.stringify({ seconds: (performance.now() - read) / 1000, rows: (read - started) / 1000, mebibytes: size / 1024 ** 2 }),
);
