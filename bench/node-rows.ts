import { readFileSync } from "node:fs";
import { open, stat } from "node:fs/promises";
import { handleSource } from "../core/bytes/handle-source.ts";
import { DatabaseFiles } from "../core/sqlite/files/database-files.ts";
import { recoverRows } from "../core/sqlite/recover.ts";
import { KNOWN_TABLES } from "../core/sqlite/tables/known-tables.ts";

/** Run as a process of its own: all rows of a database, there and erased, counted and let go of. */
const [path] = process.argv.slice(2);
const handle = await open(path, "r");
const source = handleSource(handle, (await stat(path)).size, path, (length) => Buffer.allocUnsafeSlow(length));
const started = performance.now();
const counts = { present: 0, erased: 0, unclear: 0 };
const files = await DatabaseFiles.open({ main: source });
if (!files) throw new Error(`${path} is no database`);
for await (const { rows } of recoverRows(files, KNOWN_TABLES, new AbortController().signal)) for (const { state } of rows) counts[state]++;
const seconds = (performance.now() - started) / 1000;
const peakMiB = Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync("/proc/self/status", "utf8"))?.[1]) / 1024;
process.stdout.write(JSON.stringify({ seconds, ...counts, peakMiB }));
