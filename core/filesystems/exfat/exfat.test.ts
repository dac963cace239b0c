import { afterAll, expect, test } from "vitest";
import { ExfatCard } from "../../../test/exfat-card.ts";
import { noise, patched } from "../../../test/pictures.ts";
import { scanned } from "../../../test/scanning.ts";
import { listed, Workshop } from "../../../test/workshop.ts";
import { extentsSource } from "../../bytes/extents.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import type { ListedFile } from "../volume.ts";
import { timeOf } from "./directory.ts";
import { LabelEntry, TableEntry } from "./layout.ts";

const shop = new Workshop();
afterAll(shop.close);
const LONG = "Ein sehr langer Name über fünfzehn Zeichen, Akt II.jpeg";
const RUN = [20, 21, 22];
const CHAIN = [30, 34, 31, 40];
const contents = { run: noise(3 * 4096 - 100, 1), chain: noise(4 * 4096 - 5, 2), kept: noise(6000, 3) };
const contentOf = async (bytes: Uint8Array, { placements: [placement] }: ListedFile): Promise<Buffer> => {
  const content = extentsSource(memorySource(bytes), placement?.extents ?? []);
  return Buffer.from(await content.read(0, content.size));
};
function card() {
  const made = new ExfatCard(shop);
  const run = made.put(LONG, contents.run, RUN);
  const chain = made.put("chained.bin", contents.chain, CHAIN);
  made.put("kept.bin", contents.kept, [50, 51]);
  return { made, run, chain };
}

test("a card by mkfs.exfat with files that fsck.exfat finds in order is listed as it is", async () => {
  const { made } = card();
  expect(made.fsck()).toMatch(/clean\. directories 1, files 3/);
  const { volumes, files, troubles } = await listed(memorySource(made.bytes, "card"));
  expect(troubles).toEqual([]);
  expect(volumes).toEqual([expect.objectContaining({ filesystem: "exFAT", label: "TEST CARD", clusterBytes: 4096 })]);
  expect(files.map(({ path, size, erased }) => [path, size, erased])).toEqual([
    [`/${LONG}`, contents.run.length, false],
    ["/chained.bin", contents.chain.length, false],
    ["/kept.bin", contents.kept.length, false],
  ]);
  expect(files[0].modified).toBe(Date.parse("2026-05-03T16:20:40.500Z"));
  for (const [index, content] of [contents.run, contents.chain, contents.kept].entries())
    expect((await contentOf(made.bytes, files[index])).equals(content)).toBe(true);
});

test("the up-case table that mkfs.exfat writes has the sum that §7.2.5.1 prints for the recommended one", () => {
  const { bytes, offsetOf } = new ExfatCard(shop);
  const sector = 1 << bytes[108];
  const root = offsetOf(bytes.readUInt32LE(96));
  expect(sector).toBe(512);
  const at = [0, 32, 64, 96].map((step) => root + step).find((place) => bytes[place] === 0x82) ?? 0;
  expect(TableEntry.TableChecksum(bytes, at)).toBe(0xe619_d30d);
  expect(LabelEntry.CharacterCount(bytes, root)).toBe("TEST CARD".length);
});

test("erased: one run without a chain, and pieces whose chain still stands, come back identical", async () => {
  const { made, run, chain } = card();
  made.erase(run, RUN);
  made.erase(chain, CHAIN);
  const { files } = await listed(memorySource(made.bytes, "card"));
  const erased = files.filter((file) => file.erased);
  expect(erased.map(({ name, placements }) => [name, placements[0].how])).toEqual([
    [LONG, "all 3 clusters from its first one on are free, in one run"],
    ["chained.bin", "its chain through 4 clusters still stands in the allocation table"],
  ]);
  expect((await contentOf(made.bytes, erased[0])).equals(contents.run)).toBe(true);
  expect((await contentOf(made.bytes, erased[1])).equals(contents.chain)).toBe(true);
});

test("a cluster in the middle was given to another file: it is lost, the rest keeps its place, and what stands behind the other's end too", async () => {
  const { made, run } = card();
  made.erase(run, RUN);
  made.put("newer.bin", noise(700, 9), [21]);
  const { files } = await listed(memorySource(made.bytes, "card"));
  const [placement] = files.find(({ erased }) => erased)?.placements ?? [];
  expect(placement.lost).toBe(1024);
  const left = await contentOf(made.bytes, files.find(({ erased }) => erased) as ListedFile);
  expect(left.subarray(0, 4096).equals(contents.run.subarray(0, 4096))).toBe(true);
  expect(left.subarray(4096, 4096 + 1024).every((byte) => byte === 0)).toBe(true);
  expect(left.subarray(4096 + 1024).equals(contents.run.subarray(4096 + 1024))).toBe(true);
});

test("a set whose check sum does not agree is no file; the others are listed", async () => {
  const { made, chain } = card();
  const { files } = await listed(memorySource(patched(made.bytes, chain.at + 40, [0xff]), "card"));
  expect(files.map(({ name }) => name)).toEqual([LONG, "kept.bin"]);
});

test("the boot sectors are broken: their copies are used", async () => {
  const { made } = card();
  for (const broken of [patched(made.bytes, 0, new Uint8Array(512)), patched(made.bytes, 100, [made.bytes[100] ^ 0xff])]) {
    const { files, troubles } = await listed(memorySource(broken, "card"));
    expect(troubles).toContain("the boot sectors are lost; their copies are used");
    expect(files.length).toBe(3);
  }
});

test.each([
  ["no offset: as it stands", 0, "2026-05-03T18:20:40.500Z"],
  ["two hours east", 0x88, "2026-05-03T16:20:40.500Z"],
  ["an hour and a half west", 0x80 | 0x7a, "2026-05-03T19:50:40.500Z"],
])("times: %s", (_, offset, iso) => {
  const stamp = ((2026 - 1980) * 2 ** 25 + (5 << 21) + (3 << 16) + (18 << 11) + (20 << 5) + 20) >>> 0;
  expect(timeOf(stamp, 50, offset)).toBe(Date.parse(iso));
  expect(timeOf(0, 0, 0)).toBeNull();
});

test("an erased folder in a cluster of 8 MiB is dug up, though no window of the sweep holds it whole", async () => {
  const made = new ExfatCard(shop, { mebibytes: 160, clusterBytes: 8 * 1024 * 1024 });
  const content = noise(5000, 12);
  const { at, entries } = made.put("of the lost folder.bin", content, [6]);
  const lost = made.offsetOf(9);
  made.bytes.copy(made.bytes, lost, at, at + entries * 32);
  made.bytes.fill(0, at, at + entries * 32);
  made.free([6]);
  const { finds } = await scanned(memorySource(made.bytes, "card"));
  const found = [...finds.values()].find(({ name }) => name === "of the lost folder.bin");
  expect(found).toMatchObject({ state: "erased", size: 5000 });
  expect(found?.extents).toEqual([{ offset: made.offsetOf(6), length: 5000 }]);
});
