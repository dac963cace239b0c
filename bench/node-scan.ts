import { createHash } from "node:crypto";
import { openSync, readFileSync, readSync } from "node:fs";
import { runScan } from "../cli/run-scan.ts";

/** Run as a process of its own: `scan` deep with every find hashed, or only `read` the same file in pieces of a MiB. */
const [what, path] = process.argv.slice(2);
const PIECE = 1024 * 1024;

async function scanned() {
  return runScan({ source: path, depth: "deep", kinds: null }, async ({ seconds, finds, bytesRead }) => ({
    seconds,
    bytesRead,
    whole: [...finds.values()].filter(({ condition, sha256 }) => condition === "whole" && sha256).length,
  }));
}

function read(hash: boolean) {
  const file = openSync(path, "r");
  const buffer = Buffer.allocUnsafeSlow(PIECE);
  const sha256 = createHash("sha256");
  const started = performance.now();
  for (let got = 1; got > 0; ) {
    got = readSync(file, buffer, 0, PIECE, null);
    if (hash) sha256.update(buffer.subarray(0, got));
  }
  return { seconds: (performance.now() - started) / 1000, whole: 0 };
}

const result = what === "scan" ? await scanned() : read(what === "hash");
/** Largest resident memory of this process alone (VmHWM of proc(5)); getrusage would count what the parent had before. */
const peakMiB = Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync("/proc/self/status", "utf8"))?.[1]) / 1024;
process.stdout.write(JSON.stringify({ ...result, peakMiB }));
