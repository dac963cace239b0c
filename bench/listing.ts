import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, mkdtempSync, renameSync, rmSync, truncateSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { z } from "zod";

/** Files of the volume that is listed, and how many of each folder are erased again. */
const FOLDERS = 500;
const IN_FOLDER = 200;
const ERASED_IN_FOLDER = 40;
export const LISTED_FILES = FOLDERS * IN_FOLDER;
export const ERASED_FILES = FOLDERS * ERASED_IN_FOLDER;
const GIB = 1024 ** 3;
export const MEDIUM_GIB = 16;

export const Listing = z.object({
  seconds: z.number(),
  present: z.number(),
  erased: z.number(),
  bytesRead: z.number(),
  peakMiB: z.number(),
});
export type Listing = z.infer<typeof Listing>;

const quiet = (command: string, ...args: string[]): void => void execFileSync(command, args, { stdio: ["ignore", "ignore", "ignore"] });

/** A volume of 16 GiB (a sparse file) by mkfs.ext4 with 100,000 small files, a fifth of them erased by debugfs. Made once, then kept. */
export function listingImage(path: string): string {
  if (existsSync(path)) return path;
  mkdirSync(dirname(path), { recursive: true });
  const part = `${path}.part`;
  const tree = mkdtempSync(join(tmpdir(), "jubar-tree-"));
  const erase: string[] = [];
  for (let folder = 0; folder < FOLDERS; folder++) {
    mkdirSync(join(tree, `folder ${folder}`));
    for (let file = 0; file < IN_FOLDER; file++) {
      const name = `SISK${String(file).padStart(4, "0")} of the tour.txt`;
      writeFileSync(join(tree, `folder ${folder}`, name), `Nine Crows, folder ${folder}, letter ${file}\n`.repeat(40));
      if (file % (IN_FOLDER / ERASED_IN_FOLDER) === 0) erase.push(`rm "/folder ${folder}/${name}"`);
    }
  }
  writeFileSync(part, "");
  truncateSync(part, MEDIUM_GIB * GIB);
  quiet("mkfs.ext4", "-q", "-F", "-d", tree, part);
  const script = join(tree, "erase");
  writeFileSync(script, erase.join("\n"));
  quiet("debugfs", "-w", "-f", script, part);
  rmSync(tree, { recursive: true });
  renameSync(part, path);
  return path;
}

/** Seconds that the stock tool of the file system takes to list every folder with inode, size and date. */
export function stockListing(path: string): number {
  const script = `${path}.ls`;
  writeFileSync(script, Array.from({ length: FOLDERS }, (_, folder) => `ls -l "/folder ${folder}"`).join("\n"));
  const started = performance.now();
  execFileSync("debugfs", ["-f", script, path], { stdio: ["ignore", "pipe", "ignore"], maxBuffer: 1 << 30 });
  return (performance.now() - started) / 1000;
}

/** A quick scan in a process of its own. */
export const quickScan = (path: string): Listing =>
  Listing.parse(JSON.parse(execFileSync(process.execPath, ["--import", "tsx", "bench/node-listing.ts", path], { encoding: "utf8" })));
