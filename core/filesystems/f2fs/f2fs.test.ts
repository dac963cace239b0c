import { afterAll, describe, expect, test } from "vitest";
import { MOMENT } from "../../../test/fat-card.ts";
import { diskBytes, diskTruth } from "../../../test/kept-images.ts";
import { noise, patched } from "../../../test/pictures.ts";
import { scanned } from "../../../test/scanning.ts";
import { listed, Workshop } from "../../../test/workshop.ts";
import { extentsSource } from "../../bytes/extents.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { patientSource } from "../../bytes/patient-source.ts";
import { inodeHolds } from "./checks.ts";
import { findGeometry, readPacks } from "./geometry.ts";
import { BLOCK_BYTES, NODE_FOOTER_AT } from "./layout.ts";
import { readFooter } from "./node.ts";
import { Tables } from "./tables.ts";

/** Volumes made by mkfs.f2fs and filled by sload.f2fs; dump.f2fs says where nodes lie. */
const shop = new Workshop();
afterAll(shop.close);
const FILES = new Map<string, Uint8Array>([
  ["DCIM/SISK0001.JPG", noise(300_000, 1)],
  ["DCIM/Афиша май.png", noise(5000, 2)],
  ["inline.txt", new TextEncoder().encode("Nine Crows")],
  ["empty.bin", new Uint8Array(0)],
  // More than an inode's own addresses: direct nodes are needed.
  ["large/film.mp4", noise(8_000_000, 3)],
  ...Array.from({ length: 300 }, (_, index) => [`many/a name that fills the list ${index}.txt`, noise(20, index)] as const),
]);
const tree = shop.tree("tree", FILES);

const KINDS: readonly (readonly [string, readonly string[]])[] = [
  ["as it comes", []],
  ["extra attributes and check sums", ["-O", "extra_attr,inode_checksum,inode_crtime,sb_checksum"]],
];

describe.each(KINDS)("%s", (name, options) => {
  const image = shop.blank(`${name}.img`, 128);
  shop.run("mkfs.f2fs", "-q", "-l", "TEST", ...options, image);
  shop.run("sload.f2fs", "-f", tree, image);

  test("every file is listed with path, time and content, and nothing else", async () => {
    const source = shop.source(image);
    const { volumes, files, troubles } = await listed(source);
    // mkfs writes the second checkpoint only when the volume is first mounted.
    expect(troubles.filter((what) => !/one of the two checkpoints/.test(what))).toEqual([]);
    expect(volumes).toEqual([expect.objectContaining({ filesystem: "F2FS", label: "TEST", encrypted: false })]);
    const present = files.filter(({ erased }) => !erased);
    expect(present.map(({ path }) => path?.slice(1)).sort()).toEqual([...FILES.keys()].sort());
    for (const file of present) {
      const content = extentsSource(source, file.placements[0].extents);
      expect(file).toMatchObject({ modified: MOMENT.getTime(), size: content.size });
      expect(
        Buffer.from(await content.read(0, content.size)).equals(FILES.get(file.path?.slice(1) ?? "") ?? new Uint8Array(1)),
        file.path ?? "",
      ).toBe(true);
    }
  });

  test("nodes lie where dump.f2fs says", async () => {
    const source = patientSource(shop.source(image));
    const geometry = (await findGeometry(source, 0, source.size))?.geometry;
    if (!geometry) throw new Error("no volume");
    const [pack] = (await readPacks(source, geometry)).packs;
    const tables = await Tables.read(source, geometry, pack);
    // It writes its answer into a file beside it.
    shop.run("sh", "-c", `cd '${shop.folder}' && dump.f2fs -n 0~40 '${image}'`);
    const told = Buffer.from(shop.bytes(shop.path("dump_nat"))).toString();
    let checked = 0;
    for (const [, nid, address] of told.matchAll(/nid:\s*(\d+)\s.*blkaddr:\s*(\d+)/g)) {
      checked++;
      expect(tables.addressOf(Number(nid)), `node ${nid}`).toBe(Number(address));
    }
    expect(checked).toBeGreaterThan(5);
  });
});

test("a compressed file is recognised, and its bytes are not given out as if they were its content", async () => {
  const source = shop.source(shop.path(`${KINDS[0][0]}.img`));
  const film = (await listed(source)).files.find(({ path }) => path === "/large/film.mp4");
  const nodeAt = film?.traces.at(-1)?.at ?? 0;
  // FS_COMPR_FL in i_flags, as the kernel sets it: the tool of this system cannot compress.
  const bytes = patched(await source.read(0, source.size), nodeAt + 80, [0x04]);
  const { files } = await listed(memorySource(bytes, "volume"));
  expect(files.filter(({ sealed }) => sealed).map(({ path, sealed }) => [path, sealed])).toEqual([
    ["/large/film.mp4", "the file system keeps it compressed, which is not unpacked here"],
  ]);
});

describe("a phone's volume", () => {
  const bytes = diskBytes("userdata-f2fs");
  const truth = diskTruth("userdata-f2fs");
  const { start } = truth.image;
  const opened = async (image: Uint8Array) => {
    const source = patientSource(memorySource(image, "phone"));
    const found = await findGeometry(source, start, truth.image.length);
    if (!found) throw new Error("no volume");
    return { source, ...found, ...(await readPacks(source, found.geometry)) };
  };

  test("check sums of both checkpoints agree, and those of inodes where the volume has them", async () => {
    const { packs, source, geometry } = await opened(bytes);
    expect(packs.length).toBe(2);
    expect(Math.abs(packs[0].version - packs[1].version)).toBe(1);
    const tables = await Tables.read(source, geometry, packs[0]);
    if (geometry.seed === null) return;
    for (const ino of [...tables.inodes()].slice(0, 20)) {
      const block = await source.read(start + tables.addressOf(ino) * BLOCK_BYTES, BLOCK_BYTES);
      expect(readFooter(block).ino).toBe(ino);
      expect(inodeHolds(geometry.seed, block)).toBe(true);
      expect(inodeHolds(geometry.seed, patched(block, 500, [block[500] ^ 1]))).toBe(false);
    }
  });

  test("the newer checkpoint is torn: the older one is used, and that is said; every file that it knows is listed", async () => {
    const { packs } = await opened(bytes);
    const torn = patched(bytes, start + packs[0].at * BLOCK_BYTES + 20, [0xff, 0xff]);
    const { packs: left } = await opened(torn);
    expect(left.map(({ version }) => version)).toEqual([packs[1].version]);
    const { files, troubles } = await listed(memorySource(torn, "phone"));
    expect(troubles).toContain("one of the two checkpoints is not whole; the other one is used");
    expect(files.filter(({ erased }) => !erased).length).toBeGreaterThan(80);
  });

  test("a node that was written after the last checkpoint, by its footer, is none of this volume's", async () => {
    const { packs, geometry } = await opened(bytes);
    expect(geometry.seed).toBeNull();
    const erasedOf = async (image: Uint8Array) => (await listed(memorySource(image, "phone"))).files.filter(({ erased }) => erased);
    const [file] = (await erasedOf(bytes)).filter(({ name, size }) => name !== null && size > 0);
    const footer = file.at + NODE_FOOTER_AT + 12;
    const withVersion = async (version: number) => {
      const number = new DataView(new ArrayBuffer(8));
      number.setBigUint64(0, BigInt(version), true);
      return (await erasedOf(patched(bytes, footer, new Uint8Array(number.buffer)))).some(({ at }) => at === file.at);
    };
    expect(await withVersion(packs[0].version)).toBe(true);
    expect(await withVersion(packs[0].version + 5)).toBe(false);
  });

  test("the superblock is lost: its copy is used", async () => {
    const { files, troubles } = await listed(memorySource(patched(bytes, start + 1024, new Uint8Array(3072)), "phone"));
    expect(troubles).toContain("the superblock is lost; its copy is used");
    expect(files.filter(({ erased }) => erased).length).toBeGreaterThan(80);
  });

  test("without any summary the erased files are dug up from free space by the footers of their nodes", async () => {
    const { geometry } = await opened(bytes);
    const blind = patched(bytes, start + geometry.ssaAt * BLOCK_BYTES, new Uint8Array(geometry.mainSegments * BLOCK_BYTES));
    const { files } = await listed(memorySource(blind, "phone"));
    const erased = [...(await scanned(memorySource(blind, "phone"))).finds.values()].filter(({ state }) => state === "erased");
    const wanted = truth.files.filter(({ state, recorded, survives }) => state === "erased" && recorded && survives === "intact");
    const found = wanted.filter(({ sha256 }) => erased.some((find) => find.sha256 === sha256));
    expect(found.length).toBeGreaterThan(wanted.length * 0.9);
    expect(files.filter(({ erased: gone }) => gone).length).toBeLessThanOrEqual(erased.length);
  });
});
