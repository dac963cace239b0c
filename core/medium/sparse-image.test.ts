import { writeFileSync } from "node:fs";
import { afterAll, expect, test } from "vitest";
import { noise, patched } from "../../test/pictures.ts";
import { Workshop } from "../../test/workshop.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { UnreadableError, UnusableError } from "../bytes/source.ts";
import { openSparse } from "./sparse-image.ts";

/** Held against img2simg and simg2img of the Android Open Source Project. */
const shop = new Workshop();
afterAll(shop.close);
const raw = new Uint8Array(40 * 4096);
raw.set(noise(9 * 4096, 1), 3 * 4096);
raw.fill(0x5a, 20 * 4096, 24 * 4096);
raw.set(noise(4096, 2), 39 * 4096);
writeFileSync(shop.path("raw.img"), raw);
shop.run("img2simg", shop.path("raw.img"), shop.path("packed.img"), "4096");
const packed = shop.bytes(shop.path("packed.img"));

test("a sparse image reads as the image that it was made of, over the borders of its chunks too", async () => {
  const source = await openSparse(memorySource(packed, "packed.img"));
  expect(source?.size).toBe(raw.length);
  expect(Buffer.from((await source?.read(0, raw.length)) ?? []).equals(raw)).toBe(true);
  for (const [at, length] of [
    [3 * 4096 - 7, 14],
    [12 * 4096 - 1, 2],
    [19 * 4096 + 5, 6 * 4096],
    [raw.length - 3, 3],
  ])
    expect(Buffer.from((await source?.read(at, length)) ?? []).equals(raw.subarray(at, at + length))).toBe(true);
  shop.run("simg2img", shop.path("packed.img"), shop.path("back.img"));
  expect(Buffer.from(raw).equals(shop.bytes(shop.path("back.img")))).toBe(true);
});

test("one that was cut off gives what is there, and says for good what is missing", async () => {
  const source = await openSparse(memorySource(packed.slice(0, 28 + 12 + 12 + 5 * 4096), "packed.img"));
  expect(Buffer.from((await source?.read(3 * 4096, 4 * 4096)) ?? []).equals(raw.subarray(3 * 4096, 7 * 4096))).toBe(true);
  const cause = await source?.read(30 * 4096, 4096).catch((error: unknown) => error);
  expect(cause).toBeInstanceOf(UnreadableError);
  expect(cause).toMatchObject({ offset: 30 * 4096, forGood: true });
});

/** Offsets of the chunks of the packed image, by their kind ("sparse_format.h"). */
function chunksOf(kind: number): number[] {
  const view = new DataView(packed.buffer, packed.byteOffset);
  const found: number[] = [];
  for (let at = 28; at + 12 <= packed.length; at += view.getUint32(at + 8, true)) if (view.getUint16(at, true) === kind) found.push(at);
  return found;
}

test.each([
  ["raw", 0xcac1, 12 + 4096, 3],
  ["fill", 0xcac2, 12, 0],
])(
  "a %s chunk that is shorter than what it stands for ends what is there: nothing else is given out for it",
  async (_, kind, total, block) => {
    const [at] = chunksOf(kind);
    const lying = patched(packed, at + 8, [total & 255, total >> 8, 0, 0]);
    const source = await openSparse(memorySource(lying, "packed.img"));
    expect(Buffer.from((await source?.read(0, block * 4096)) ?? []).equals(raw.subarray(0, block * 4096))).toBe(true);
    await expect(source?.read(block * 4096, 4096)).rejects.toMatchObject({ offset: block * 4096, forGood: true });
  },
);

test("another file is none, and a header without sense is said in a sentence", async () => {
  expect(await openSparse(memorySource(raw, "raw.img"))).toBeNull();
  const broken = packed.slice();
  broken.fill(0, 12, 16);
  await expect(openSparse(memorySource(broken, "broken.img"))).rejects.toEqual(
    new UnusableError("broken.img begins like an Android sparse image, but its header makes no sense."),
  );
});
