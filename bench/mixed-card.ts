import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, openSync, readSync, renameSync, rmSync, truncateSync, utimesSync, writeFileSync, writeSync } from "node:fs";
import { dirname, join, resolve } from "node:path";
import { BootSector } from "../core/filesystems/fat/layout.ts";
import { run } from "../test/fat-card.ts";
import { jpegOf } from "../test/pictures.ts";
import { viewedFiles } from "../test/viewing-card.ts";

const MIB = 1024 * 1024;
/** Files of the card: what browsers decode by themselves, and what is decoded here or needs a frame or page drawn. */
export const MIXED_FILES = 10_000;
const FAST = ["pic.webp", "pic.gif", "pic.bmp", "pic.avif", "pic.png"];
/** When they were made: over two years, in seconds since 1970. */
const FIRST_DAY = Date.UTC(2024, 0, 1) / 1000;
const DAYS = 730;
const SLOW = ["pic.heic", "programme.pdf", "film.mp4", "film.webm", "pic.tiff"];

/** A card of many files of many kinds, each unlike all others: put there by mkfs.ext4. Made once, then kept. */
export function mixedCard(path: string): string {
  if (existsSync(path)) return path;
  const folder = `${path}.files`;
  mkdirSync(folder, { recursive: true });
  const files = viewedFiles();
  const pictures = Array.from({ length: 8 }, (_, seed) => jpegOf(800, 600, seed + 1, 75));
  for (let number = 0; number < MIXED_FILES; number++) {
    const isFast = number % 10 < 7;
    const name = isFast ? FAST[number % FAST.length] : SLOW[number % SLOW.length];
    const isJpeg = isFast && number % 3 === 0;
    const content = isJpeg ? pictures[number % pictures.length] : (files.get(name) ?? new Uint8Array());
    const ending = isJpeg ? "jpg" : name.slice(name.indexOf(".") + 1);
    // What stands behind its end makes it another file than the one before.
    const file = join(folder, `${isFast ? "fast" : "slow"}-${number}.${ending}`);
    writeFileSync(file, Buffer.concat([content, Buffer.from(`${number}`.padStart(16))]));
    const moment = FIRST_DAY + (number / MIXED_FILES) * DAYS * 86_400;
    utimesSync(file, moment, moment);
  }
  const part = `${path}.part`;
  run("mkfs.ext4", "-q", "-d", folder, part, "1600M");
  rmSync(folder, { recursive: true });
  renameSync(part, path);
  return path;
}

/** Pieces that the long film lies in. */
export const FILM_PIECES = 1000;
const SECTORS_PER_CLUSTER = 16;
const BAD = 0x0fff_fff7;

/** A card with one film of 1 GiB that lies in a thousand pieces, its index behind all of it: made by ffmpeg, put between bad clusters by mtools. */
export function filmCard(path: string): string {
  if (existsSync(path)) return path;
  mkdirSync(dirname(path), { recursive: true });
  const [clip, list, film, part] = ["clip.mp4", "list.txt", "film.mp4", "part"].map((name) => `${path}.${name}`);
  const noise = ["-f", "lavfi", "-i", "testsrc2=s=1280x720:r=25,noise=alls=80:allf=t", "-t", "6"];
  // A whole picture each second, as phones record.
  const coded = "-c:v libx264 -preset ultrafast -b:v 50M -g 25 -pix_fmt yuv420p".split(" ");
  execFileSync("ffmpeg", ["-v", "error", "-y", ...noise, ...coded, clip]);
  writeFileSync(list, `file '${resolve(clip)}'\n`.repeat(Math.ceil((1024 * MIB) / sizeOf(clip))));
  execFileSync("ffmpeg", ["-v", "error", "-y", "-f", "concat", "-safe", "0", "-i", list, "-c", "copy", film]);
  writeFileSync(part, "");
  truncateSync(part, sizeOf(film) + 96 * MIB);
  run("mkfs.vfat", "-F", "32", "-s", String(SECTORS_PER_CLUSTER), part);
  markBad(part, Math.floor(sizeOf(film) / (SECTORS_PER_CLUSTER * 512) / FILM_PIECES));
  run("mcopy", "-i", part, film, "::film.mp4");
  for (const one of [clip, list, film]) rmSync(one);
  renameSync(part, path);
  return path;
}

const sizeOf = (path: string): number => Number(execFileSync("stat", ["-c", "%s", path], { encoding: "utf8" }));

/** Marks every so many clusters as bad, in both tables: what is copied then lies around them. */
function markBad(image: string, every: number): void {
  const file = openSync(image, "r+");
  const boot = new Uint8Array(512);
  readSync(file, boot, 0, 512, 0);
  const sectors = BootSector.fatSize32(boot, 0);
  const entry = new Uint8Array(Uint32Array.of(BAD).buffer);
  for (let table = 0; table < BootSector.fatCount(boot, 0); table++) {
    const start = (BootSector.reservedSectors(boot, 0) + table * sectors) * 512;
    for (let cluster = 3 + every; cluster * 4 < sectors * 512; cluster += every + 1) writeSync(file, entry, 0, 4, start + cluster * 4);
  }
}
