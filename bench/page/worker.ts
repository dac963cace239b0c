import { blobSource } from "../../core/bytes/blob-source.ts";
import { scan } from "../../core/scan/engine.ts";
import { WINDOW } from "../../core/scan/sweep.ts";

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
  for await (const event of scan(blobSource(file, file.name), { depth: "deep", kinds: null }, new AbortController().signal))
    if (event.type === "batch") whole += event.finds.filter(({ condition }) => condition === "whole").length;
  return whole;
}

self.onmessage = async ({ data: file }: MessageEvent<File>) => {
  const rounds: { read: number; scan: number; whole: number }[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    let whole = 0;
    const reading = await seconds(() => read(file));
    const scanning = await seconds(async () => {
      whole = await deepScan(file);
    });
    rounds.push({ read: reading, scan: scanning, whole });
  }
  self.postMessage(rounds);
};
