import { blobSource } from "../../core/bytes/blob-source.ts";
import { scan } from "../../core/scan/engine.ts";
import { WINDOW } from "../../core/scan/free-space.ts";
import { EVERYTHING_THERE } from "../../core/scan/scope.ts";

const ROUNDS = 3;
const seconds = async (work: () => Promise<unknown>): Promise<number> => {
  const started = performance.now();
  await work();
  return (performance.now() - started) / 1000;
};

/** The bytes that a scan asks for, in the same slices, and nothing done with them. */
async function read(file: File): Promise<void> {
  for (let at = 0; at < file.size; at += WINDOW) await file.slice(at, at + WINDOW).arrayBuffer();
}

async function deepScan(file: File): Promise<number> {
  let whole = 0;
  for await (const event of scan(blobSource(file, file.name), { depth: "deep", ...EVERYTHING_THERE }, new AbortController().signal))
    if (event.type === "batch") whole += event.finds.filter(({ condition }) => condition === "whole").length;
  return whole;
}

/** `reads`: is plain reading measured beside the scan? It is not where memory is: that of reading alone would drown the scan's. */
self.onmessage = async ({ data: { file, reads } }: MessageEvent<{ file: File; reads: boolean }>) => {
  const rounds: { read: number; scan: number; whole: number }[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    let whole = 0;
    const reading = reads ? await seconds(() => read(file)) : 0;
    const scanning = await seconds(async () => {
      whole = await deepScan(file);
    });
    rounds.push({ read: reading, scan: scanning, whole });
  }
  self.postMessage(rounds);
};
