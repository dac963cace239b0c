import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, truncateSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { memorySource } from "../core/bytes/memory-source.ts";
import type { ByteSource } from "../core/bytes/source.ts";

/** The moment given to files unless a test says otherwise: FAT keeps even seconds. */
export const MOMENT = new Date("2026-05-03T18:20:40Z");

/** A memory card made on the spot by the real mkfs.vfat and mtools. */
export class FatCard {
  readonly #folder = mkdtempSync(join(tmpdir(), "jubar-card-"));
  readonly image = join(this.#folder, "card.img");

  constructor({ mebibytes = 34, sectorsPerCluster = 1 } = {}) {
    writeFileSync(this.image, "");
    truncateSync(this.image, mebibytes * 1024 * 1024);
    run("mkfs.vfat", "-F", "32", "-s", String(sectorsPerCluster), "-n", "TEST CARD", "-i", "4a554241", this.image);
  }

  makeFolder(path: string): this {
    this.tool("mmd", `::${path}`);
    return this;
  }

  put(path: string, content: Uint8Array, moment = MOMENT): this {
    const local = join(this.#folder, "put");
    writeFileSync(local, content);
    utimesSync(local, moment, moment);
    this.tool("mcopy", "-o", "-m", local, `::${path}`);
    return this;
  }

  erase(path: string): this {
    this.tool("mdel", `::${path}`);
    return this;
  }

  eraseFolder(path: string): this {
    this.tool("mdeltree", `::${path}`);
    return this;
  }

  /** Calls one of the mtools on this card. @returns its standard output */
  tool(name: string, ...args: string[]): string {
    return this.toolBytes(name, ...args).toString("utf8");
  }

  toolBytes(name: string, ...args: string[]): Buffer {
    return run(name, "-i", this.image, ...args);
  }

  bytes(): Uint8Array {
    return new Uint8Array(readFileSync(this.image));
  }

  /** Replaces the whole image: for what no tool can do to a card. */
  write(bytes: Uint8Array): this {
    writeFileSync(this.image, bytes);
    return this;
  }

  source(): ByteSource {
    return memorySource(this.bytes(), "card.img");
  }

  remove(): void {
    rmSync(this.#folder, { recursive: true });
  }
}

/** Runs a system tool. UTF-8 for mtools: names come as they are. */
export function run(command: string, ...args: string[]): Buffer {
  return execFileSync(command, args, {
    env: { ...process.env, LC_ALL: "C.UTF-8", TZ: "UTC", MTOOLS_SKIP_CHECK: "1" },
    stdio: ["ignore", "pipe", "pipe"],
    maxBuffer: 64 * 1024 * 1024,
  });
}
