import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gunzipSync, gzipSync } from "node:zlib";

/**
 * Builds the second practice card: the theatre's card after a quick format by mkfs.vfat. Lists and tables are new and empty,
 * most of the content is still below. Needs dosfstools; the result is committed.
 */
const FROM = "demo/theatre-card.img.gz";
const CARD = "demo/formatted-card.img.gz";
/** The partition begins at its first MiB, and mkfs counts what it makes in KiB. */
const PARTITION_START = 1024 * 1024;

const folder = mkdtempSync(join(tmpdir(), "jubar-format-"));
const image = join(folder, "card.img");
const card = gunzipSync(readFileSync(FROM));
writeFileSync(image, card.subarray(PARTITION_START));
execFileSync("mkfs.vfat", ["-F", "32", "-s", "1", "-n", "SISKIN", "-i", "20260513", "--invariant", image], {
  env: { ...process.env, PATH: `${process.env.PATH}:/usr/sbin:/sbin` },
});
card.set(readFileSync(image), PARTITION_START);
writeFileSync(CARD, gzipSync(card, { level: 9 }));
rmSync(folder, { recursive: true });
