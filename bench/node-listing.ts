import { readFileSync } from "node:fs";
import { open, stat } from "node:fs/promises";
import { handleSource } from "../core/bytes/handle-source.ts";
import { scan } from "../core/scan/engine.ts";
import { EVERYTHING_THERE } from "../core/scan/scope.ts";

/** Run as a process of its own: a quick scan, its finds counted and let go of. */
const [path] = process.argv.slice(2);
const handle = await open(path, "r");
const source = handleSource(handle, (await stat(path)).size, path);
const started = performance.now();
const counts = { present: 0, binned: 0, erased: 0 };
let bytesRead = 0;
for await (const event of scan(source, { depth: "quick", ...EVERYTHING_THERE }, new AbortController().signal)) {
  if (event.type !== "batch") continue;
  for (const { state } of event.finds) counts[state]++;
  bytesRead = event.bytesRead;
}
const seconds = (performance.now() - started) / 1000;
const peakMiB = Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync("/proc/self/status", "utf8"))?.[1]) / 1024;
process.stdout.write(JSON.stringify({ seconds, present: counts.present, erased: counts.erased, bytesRead, peakMiB }));
