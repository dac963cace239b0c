import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { afterAll, expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { UnreadableError, UnusableError } from "../bytes/source.ts";
import { joinedPieces, pieceOf } from "../medium/pieces.ts";
import { packedImageIn } from "./packed-image.ts";

const folder = mkdtempSync(join(tmpdir(), "jubar-packed-"));
afterAll(() => rmSync(folder, { recursive: true }));
/** Noise, and zeros that pack a thousandfold. */
const image = new Uint8Array(3 * 1024 * 1024);
image.set(noise(300_000, 7), 1_000_000);

/** An archive by the stock zip program (Info-ZIP). */
function zipped(name: string, files: Readonly<Record<string, Uint8Array>>): Uint8Array {
  for (const [file, bytes] of Object.entries(files)) writeFileSync(join(folder, file), bytes);
  execFileSync("zip", ["-q", name, ...Object.keys(files)], { cwd: folder });
  return new Uint8Array(readFileSync(join(folder, name)));
}
const xz = (bytes: Uint8Array) => new Uint8Array(execFileSync("xz", ["--stdout"], { input: bytes, maxBuffer: 1 << 26 }));

async function unpacked(bytes: Uint8Array, name: string): Promise<Buffer | null> {
  const packed = await packedImageIn(memorySource(bytes, name));
  if (!packed) return null;
  const pieces: Uint8Array[] = [];
  for await (const piece of packed.pieces()) pieces.push(piece);
  return Buffer.concat(pieces);
}

test.each([
  ["gzip", () => new Uint8Array(gzipSync(image)), "card.img.gz"],
  ["xz, by XZ Utils", () => xz(image), "card.img.xz"],
  ["a ZIP archive of one file", () => zipped("one.zip", { "card.img": image }), "one.zip"],
  [
    "a ZIP archive of a set of pieces",
    () => zipped("set.zip", { "card.img.001": image.subarray(0, 1_500_000), "card.img.002": image.subarray(1_500_000) }),
    "set.zip",
  ],
])("%s is unpacked to the very image", async (_, make, name) => {
  const bytes = make();
  expect((await packedImageIn(memorySource(bytes, name)))?.name).toBe("card.img");
  expect((await unpacked(bytes, name))?.equals(image)).toBe(true);
});

test("an archive of several files, or of pieces with one missing, is an archive; what is not packed is not", async () => {
  expect(await unpacked(zipped("two.zip", { a: image.subarray(0, 100), b: image.subarray(0, 100) }), "two.zip")).toBeNull();
  const torn = zipped("torn.zip", { "t.001": image.subarray(0, 100), "t.003": image.subarray(0, 100) });
  expect(await unpacked(torn, "torn.zip")).toBeNull();
  expect(await unpacked(image, "card.img")).toBeNull();
});

test.each([
  ["gzip", () => new Uint8Array(gzipSync(image)), /is not a whole gzip file/],
  ["xz", () => xz(image), /no whole xz file/],
])("%s that is cut off or broken is said, and nothing of it passes for the whole", async (how, make, sentence) => {
  const bytes = make();
  await expect(unpacked(bytes.slice(0, bytes.length / 2), `cut.${how}`)).rejects.toThrow(UnusableError);
  const broken = bytes.slice();
  broken.fill(0x55, bytes.length / 2, bytes.length / 2 + 400);
  await expect(unpacked(broken, `broken.${how}`)).rejects.toThrow(sentence);
});

test("pieces in any order are one; a missing one is a hole that never reads, and is said", async () => {
  const piece = (name: string, from: number, to: number) => memorySource(image.slice(from, to), name);
  const whole = joinedPieces([piece("c.img.003", 2000, 2500), piece("c.img.001", 0, 1000), piece("c.img.002", 1000, 2000)]);
  expect([whole.name, whole.size, whole.troubles]).toEqual(["c.img", 2500, []]);
  expect(Buffer.from(await whole.read(990, 1100)).equals(image.subarray(990, 2090))).toBe(true);
  const torn = joinedPieces([piece("c.img.001", 0, 1000), piece("c.img.003", 2000, 2500)]);
  expect(torn.holes).toEqual([{ offset: 1000, length: 1000 }]);
  expect(torn.troubles?.map(({ what }) => what)).toEqual(["the piece c.img.002 is missing: nothing of it is read"]);
  await expect(torn.read(900, 200)).rejects.toMatchObject({ offset: 1000, forGood: true });
  await expect(torn.read(1500, 1)).rejects.toThrow(UnreadableError);
  expect(joinedPieces([piece("c.001", 0, 10)]).troubles?.[0].what).toMatch(/only the first piece/);
  expect(() => joinedPieces([piece("c.002", 0, 10)])).toThrow(/c\.001 is missing/);
  expect(["a.001", "a.img.0012", "a.000", "a.01", ".001", "a.1234x"].map((name) => pieceOf(name)?.number ?? null)).toEqual([
    1,
    12,
    null,
    null,
    null,
    null,
  ]);
});
