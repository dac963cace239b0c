import { existsSync, mkdirSync, openSync, readFileSync, renameSync, rmSync, truncateSync, writeFileSync, writeSync } from "node:fs";
import { dirname } from "node:path";
import { seeded } from "../demo/random.ts";
import { run } from "../test/fat-card.ts";
import { jpegOf } from "../test/pictures.ts";

const MIB = 1024 * 1024;
/** 1 GiB, in clusters of 8 KiB: with larger ones so small a card would be no FAT32. */
export const CARD_BYTES = 1024 * MIB;
const SECTORS_PER_CLUSTER = 16;
const CLUSTER = SECTORS_PER_CLUSTER * 512;
/** Pictures erased with their folder, and pictures that no list speaks of. */
const LISTED = 60;
const UNLISTED = 120;
export const PLANTED = LISTED + UNLISTED;

/**
 * The card that is measured on: free space of 50 % noise, 25 % zeros and 25 % text, in turns of a MiB, with erased
 * pictures in it. Made once by mkfs.vfat and mtools, then kept.
 */
export function cardImage(path: string): string {
  if (existsSync(path)) return path;
  mkdirSync(dirname(path), { recursive: true });
  const part = `${path}.part`;
  const local = `${path}.jpg`;
  writeFileSync(part, "");
  truncateSync(part, CARD_BYTES);
  run("mkfs.vfat", "-F", "32", "-s", String(SECTORS_PER_CLUSTER), part);
  run("mmd", "-i", part, "::TOUR");
  const pictures = Array.from({ length: 12 }, (_, seed) => jpegOf(900, 700, seed + 1, 85));
  for (let number = 0; number < LISTED; number++) {
    writeFileSync(local, pictures[number % pictures.length]);
    run("mcopy", "-i", part, local, `::TOUR/SISK${1000 + number}.JPG`);
  }
  run("mdeltree", "-i", part, "::TOUR");
  rmSync(local);

  const boot = readFileSync(part).subarray(0, 512);
  const dataAt = (boot.readUInt16LE(14) + 2 * boot.readUInt32LE(36)) * 512;
  const listedClusters = 2 + pictures.reduce((sum, picture) => sum + Math.ceil(picture.length / CLUSTER), 0) * (LISTED / pictures.length);
  const from = dataAt + listedClusters * CLUSTER;
  const random = seeded(20);
  const noise = Buffer.from(Uint32Array.from({ length: MIB / 4 }, () => random() * 2 ** 32).buffer);
  const text = Buffer.alloc(MIB, "The Ferryman, second act. The lantern is lit; the fox enters from the left, and waits.\n");
  const zeros = Buffer.alloc(MIB);
  const card = openSync(part, "r+");
  for (let at = from, turn = 0; at < CARD_BYTES; at += MIB, turn++) {
    const filling = [noise, zeros, noise, text][turn % 4];
    // Noise that repeats to the byte would be kind to caches of the processor: each turn is other noise.
    if (filling === noise)
      for (let word = 0; word < noise.length; word += 4) noise.writeUInt32LE((noise.readUInt32LE(word) * 2654435761 + turn) >>> 0, word);
    writeSync(card, filling, 0, Math.min(MIB, CARD_BYTES - at), at);
  }
  for (let number = 0; number < UNLISTED; number++) {
    const cluster = Math.floor(((number + 0.5) / UNLISTED) * ((CARD_BYTES - from) / CLUSTER - 20));
    writeSync(card, pictures[number % pictures.length], 0, undefined, from + cluster * CLUSTER);
  }
  renameSync(part, path);
  return path;
}
