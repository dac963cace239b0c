import { closeSync, ftruncateSync, mkdirSync, openSync, writeFileSync, writeSync } from "node:fs";
import { afterAll, describe, expect, test } from "vitest";
import { noise, patched } from "../../../test/pictures.ts";
import { listed, Workshop } from "../../../test/workshop.ts";
import { extentsSource, totalLength } from "../../bytes/extents.ts";
import { memorySource } from "../../bytes/memory-source.ts";

/** Extent trees as mkfs.ext4 and debugfs make them ("Extent Tree" of the kernel's ext4 documentation), and trees that lie. */
const shop = new Workshop();
afterAll(shop.close);
const BLOCK = 1024;
/** Where `i_block` begins in an inode, and what its tree has there: a header, then entries of the same size. */
const I_BLOCK = 0x28;
const ENTRY = 12;

/** Twelve pieces with gaps between them: more than an inode has room for. */
const PIECES = Array.from({ length: 12 }, (_, index) => ({ at: index * 5 * BLOCK, bytes: noise(2 * BLOCK, index + 1) }));
const root = shop.path("root");
mkdirSync(root);
const file = openSync(`${root}/pieces.bin`, "w");
ftruncateSync(file, 60 * BLOCK);
for (const { at, bytes } of PIECES) writeSync(file, bytes, 0, bytes.length, at);
closeSync(file);
const whole = new Uint8Array(60 * BLOCK);
for (const { at, bytes } of PIECES) whole.set(bytes, at);

function volume(name: string, features: string) {
  const image = shop.blank(`${name}.img`, 16);
  shop.run("mkfs.ext4", "-q", "-F", "-b", String(BLOCK), "-O", features, "-d", root, image);
  const told = shop.run("debugfs", "-R", "ex /pieces.bin", image);
  // The line of the tree's root names the block that its one entry leads to.
  const leaf = Number(/^\s*0\/ 1\s+1\/\s+1\s+\d+ -\s+\d+\s+(\d+)/m.exec(told)?.[1]);
  return { image, bytes: shop.bytes(image), leafAt: leaf * BLOCK };
}
async function read(bytes: Uint8Array) {
  const source = memorySource(bytes, "volume");
  const { files, troubles } = await listed(source);
  const found = files.find(({ path }) => path === "/pieces.bin");
  const content = extentsSource(source, found?.placements[0]?.extents ?? []);
  return { found, troubles, content: Buffer.from(await content.read(0, content.size)) };
}
const PART_LOST = "/pieces.bin: a part of where its content lies is lost";

describe.each([
  ["with check sums", "metadata_csum"],
  ["without", "^metadata_csum"],
])("a tree with a block of its own, %s", (name, features) => {
  const { bytes } = volume(name, features);

  test("gives the file's bytes", async () => {
    const { content, troubles } = await read(bytes);
    expect(troubles).toEqual([]);
    expect(content.equals(whole)).toBe(true);
  });

  test("that its parent says lies a level higher is not followed", async () => {
    const { found } = await read(bytes);
    const inodeAt = found?.traces[1].at ?? 0;
    const { content, troubles } = await read(patched(bytes, inodeAt + I_BLOCK + 6, [2, 0]));
    expect(troubles).toContain(PART_LOST);
    expect(content.equals(whole)).toBe(false);
  });
});

test("a block of a tree that does not agree with its check sum leads nowhere, however likely it looks", async () => {
  const { bytes, leafAt } = volume("sums", "metadata_csum");
  // One block on: the second half of this piece, then a stranger's.
  const start = leafAt + ENTRY * 4 + 8;
  const { content, troubles } = await read(patched(bytes, start, [bytes[start] + 1]));
  expect(troubles).toContain(PART_LOST);
  expect(content.includes(Buffer.from(PIECES[3].bytes.subarray(BLOCK)))).toBe(false);
});

test("blocks that were reserved for a file but never written are zeros, whatever lay there before", async () => {
  const image = shop.blank("reserved.img", 16);
  shop.run("mkfs.ext4", "-q", "-F", "-b", String(BLOCK), "-O", "^has_journal", image);
  writeFileSync(shop.path("foreign"), noise(40 * BLOCK, 99));
  writeFileSync(shop.path("own"), noise(3 * BLOCK, 7));
  const commands = [
    `write ${shop.path("foreign")} foreign.bin`,
    "rm foreign.bin",
    `write ${shop.path("own")} pieces.bin`,
    "fallocate pieces.bin 3 22",
    `sif pieces.bin size ${23 * BLOCK}`,
  ];
  writeFileSync(shop.path("commands"), `${commands.join("\n")}\n`);
  shop.run("debugfs", "-w", "-f", shop.path("commands"), image);
  expect(shop.run("debugfs", "-R", "ex /pieces.bin", image)).toContain("Uninit");
  const { found, content } = await read(shop.bytes(image));
  expect(found?.size).toBe(23 * BLOCK);
  expect(totalLength(found?.placements[0].extents ?? [])).toBe(23 * BLOCK);
  expect(content.subarray(0, 3 * BLOCK).equals(noise(3 * BLOCK, 7))).toBe(true);
  expect(content.subarray(3 * BLOCK).every((byte) => byte === 0)).toBe(true);
});
