import { writeFileSync } from "node:fs";
import { afterAll, describe, expect, test } from "vitest";
import { MOMENT } from "../../../test/fat-card.ts";
import { diskBytes } from "../../../test/kept-images.ts";
import { noise, patched } from "../../../test/pictures.ts";
import { listed, Workshop } from "../../../test/workshop.ts";
import { extentsSource, totalLength } from "../../bytes/extents.ts";
import { faultySource } from "../../bytes/faulty-source.ts";
import { Polynomial, runningCrc } from "../../bytes/hash.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { patientSource } from "../../bytes/patient-source.ts";
import { readFolderBlock } from "./directory.ts";
import { Disk } from "./disk.ts";
import { findGeometry, readGroups } from "./geometry.ts";
import { readJournal } from "./journal.ts";
import { mapNow } from "./tree.ts";

/** Volumes made by mkfs.ext4, which fills them from a folder; debugfs, the stock tool, says what is in them. */
const shop = new Workshop();
afterAll(shop.close);
const FILES = new Map<string, Uint8Array>([
  ["DCIM/SISK0001.JPG", noise(300_000, 1)],
  ["DCIM/Афиша май.png", noise(5000, 2)],
  ["tiny.txt", new TextEncoder().encode("Nine Crows")],
  ["empty.bin", new Uint8Array(0)],
  ...["a", "b", "c", "d"].map((name, index) => [`pair/${name}.txt`, noise(30, 500 + index)] as const),
  ...Array.from({ length: 400 }, (_, index) => [`many/a name that fills the list ${index}.txt`, noise(20, index)] as const),
]);
const tree = shop.tree("tree", FILES);

const KINDS: readonly (readonly [string, string, readonly string[]])[] = [
  ["extents, check sums, 64 bit", "ext4", ["-O", "metadata_csum,64bit"]],
  ["blocks of 1 KiB, many groups", "ext4", ["-b", "1024", "-g", "1024"]],
  ["content and folders inside inodes", "ext4", ["-I", "256", "-O", "inline_data,metadata_csum"]],
  ["block maps, no extents", "ext3", ["-O", "^extent,^64bit,^huge_file,^flex_bg"]],
  ["no journal, no extents", "ext2", ["-O", "^has_journal,^extent,^64bit"]],
  ["clusters of 16 KiB over blocks of 1 KiB", "ext4", ["-b", "1024", "-O", "bigalloc", "-C", "16384"]],
  ["one descriptor block a group", "ext4", ["-O", "meta_bg,^resize_inode", "-b", "1024", "-g", "2048"]],
];

describe.each(KINDS)("%s", (name, filesystem, options) => {
  const image = shop.blank(`${name}.img`, 24);
  shop.run("mkfs.ext4", "-q", "-F", "-L", "TEST", "-d", tree, ...options, image);
  test("every file is listed with path, time and content, and nothing else", async () => {
    const source = shop.source(image);
    const { volumes, files, troubles } = await listed(source);
    expect(troubles).toEqual([]);
    expect(volumes).toEqual([expect.objectContaining({ filesystem, label: "TEST", start: 0, encrypted: false })]);
    expect(files.map(({ path }) => path?.slice(1)).sort()).toEqual([...FILES.keys()].sort());
    // The place of its record is what a find's id is made of.
    expect(new Set(files.map(({ at }) => at)).size).toBe(files.length);
    for (const file of files) {
      const content = extentsSource(source, file.placements[0].extents);
      expect(file).toMatchObject({ erased: false, modified: MOMENT.getTime(), size: content.size });
      expect(
        Buffer.from(await content.read(0, content.size)).equals(FILES.get(file.path?.slice(1) ?? "") ?? new Uint8Array(1)),
        file.path ?? "",
      ).toBe(true);
    }
  });

  test("has as many free blocks as dumpe2fs says", async () => {
    const free = Number(/^Free blocks:\s+(\d+)/m.exec(shop.run("dumpe2fs", "-h", image))?.[1]);
    const blockBytes = Number(/^Block size:\s+(\d+)/m.exec(shop.run("dumpe2fs", "-h", image))?.[1]);
    const { volumes } = await listed(shop.source(image));
    expect(volumes[0].free).toBe(free * blockBytes);
  });
});

test("the stock tool erases a file: it keeps its inode's extents, and they are found in the table", async () => {
  const image = shop.path(`${KINDS[0][0]}.img`);
  shop.run("debugfs", "-w", "-R", "rm /DCIM/SISK0001.JPG", image);
  const source = shop.source(image);
  const { files } = await listed(source);
  const erased = files.filter((file) => file.erased);
  expect(erased.map(({ size }) => size)).toEqual([300_000]);
  const content = extentsSource(source, erased[0].placements[0].extents);
  expect(Buffer.from(await content.read(0, content.size)).equals(noise(300_000, 1))).toBe(true);
});

test("a file that was unlinked while it was open, and not cleared away: erased, with all its blocks", async () => {
  const image = shop.blank("orphan.img", 24);
  shop.run("mkfs.ext4", "-q", "-F", "-d", tree, image);
  const number = /Inode: (\d+)/.exec(shop.run("debugfs", "-R", "stat /DCIM/SISK0001.JPG", image))?.[1];
  writeFileSync(shop.path("orphan"), `unlink /DCIM/SISK0001.JPG\nsif <${number}> links_count 0\n`);
  shop.run("debugfs", "-w", "-f", shop.path("orphan"), image);
  const source = shop.source(image);
  const erased = (await listed(source)).files.filter((file) => file.erased);
  expect(erased.map(({ size }) => size)).toEqual([300_000]);
  const content = extentsSource(source, erased[0].placements[0].extents);
  expect(Buffer.from(await content.read(0, content.size)).equals(noise(300_000, 1))).toBe(true);
});

test("the superblock is lost, or lies: its copy in another group is used", async () => {
  const image = shop.blank("groups.img", 24);
  shop.run("mkfs.ext4", "-q", "-F", "-b", "1024", "-d", tree, image);
  const { files, troubles } = await listed(memorySource(shop.bytes(image).fill(0, 1024, 2048), "volume"));
  expect(troubles[0]).toMatch(/^the superblock is lost; its copy in block group \d+ is used$/);
  expect(files.length).toBe(FILES.size);
});

test("a folder's block is lost: its files are still in use, and found by their inodes", async () => {
  const image = shop.path(`${KINDS[3][0]}.img`);
  const [block] = shop.run("debugfs", "-R", "blocks /DCIM", image).trim().split(/\s+/).map(Number);
  const bytes = shop.bytes(image).fill(0xaa, block * 1024, (block + 1) * 1024);
  const { files, troubles } = await listed(memorySource(bytes, "volume"));
  expect(troubles).toContain("a part of the list of /DCIM/ is broken");
  const nameless = files.filter(({ name }) => name === null);
  expect(nameless.map(({ size, erased }) => [size, erased]).sort()).toEqual([
    [300_000, false],
    [5000, false],
  ]);
});

test("a sector of a folder's block is dead: names before and behind it are found, and the loss is said", async () => {
  const image = shop.path(`${KINDS[3][0]}.img`);
  const blocks = shop.run("debugfs", "-R", "blocks /many", image).trim().split(/\s+/).map(Number);
  const dead = { start: blocks[2] * 1024, length: 512, behaviour: "dead" } as const;
  const { files, troubles } = await listed(faultySource(shop.source(image), [dead], async () => {}));
  expect(troubles).toContain("512 bytes of the list of /many/ cannot be read: files named there are missing");
  const named = files.filter(({ path, erased }) => !erased && path?.startsWith("/many/"));
  // An entry takes 44 bytes: what stood in the dead sector is still there, without its name.
  expect(named.length).toBeGreaterThanOrEqual(400 - 13);
  expect(files.filter(({ erased }) => !erased).length).toBe(FILES.size);
});

describe("records that lie", () => {
  const image = shop.blank("lies.img", 24);
  shop.run("mkfs.ext4", "-q", "-F", "-d", tree, image);
  shop.run("debugfs", "-w", "-R", "link /many /DCIM/again", image);
  const bytes = shop.bytes(image);
  const lie = async (at: number, value: readonly number[]) => {
    const picture = (await listed(memorySource(bytes, "volume"))).files.find(({ path }) => path === "/DCIM/SISK0001.JPG");
    const lied = await listed(memorySource(patched(bytes, (picture?.traces[1].at ?? 0) + at, value), "volume"));
    return { troubles: lied.troubles, file: lied.files.find(({ path }) => path === "/DCIM/SISK0001.JPG") };
  };

  test("a folder that another one leads to again is walked once", async () => {
    const { files, troubles } = await listed(memorySource(bytes, "volume"));
    expect(files.length).toBe(FILES.size);
    expect(troubles.filter((what) => /leads into itself or into another folder/.test(what)).length).toBe(1);
  });

  test("a file of 2^60 bytes gives what is there, and no more than the volume has", async () => {
    const { file } = await lie(0x6c, [0, 0, 0, 0x10]);
    expect(file?.size).toBeGreaterThanOrEqual(2 ** 60);
    expect(totalLength(file?.placements[0].extents ?? [])).toBeLessThanOrEqual(bytes.length);
  });

  test("an extent tree ten levels deep is not followed, and that is said", async () => {
    const { troubles } = await lie(0x28 + 6, [10, 0]);
    expect(troubles).toContain("/DCIM/SISK0001.JPG: a part of where its content lies is lost");
  });
});

describe("the journal of a phone's volume", () => {
  const bytes = diskBytes("userdata-ext4-unclean");
  const start = 8 * 1024 * 1024;
  const volume = shop.path("volume.img");
  writeFileSync(volume, bytes.subarray(start));

  test("holds, by transaction, the blocks that debugfs logdump tells of", async () => {
    const source = patientSource(memorySource(bytes, "phone"));
    const found = await findGeometry(source, start, bytes.length - start);
    if (!found) throw new Error("no volume");
    const disk = new Disk(source, found.geometry);
    disk.setGroups((await readGroups(found.geometry, (block) => disk.block(block))).groups);
    const inode = await disk.inode(found.geometry.journalInode);
    if (!inode) throw new Error("no journal");
    const { runs } = await mapNow(disk, inode);
    const places = runs.flatMap(({ physical, count }) =>
      Array.from({ length: count }, (_, index) => disk.offsetOf((physical ?? 0) + index)),
    );
    const journal = await readJournal(source, places, found.geometry.blockBytes, true);
    // logdump walks from the start of what must be replayed, -a from there on through what is committed.
    const log = shop.run("debugfs", "-R", "logdump -a", volume);
    const told = new Map<string, number>();
    let sequence = "";
    for (const line of log.split("\n")) {
      sequence = /Found expected sequence (\d+)/.exec(line)?.[1] ?? sequence;
      const block = /FS block (\d+) logged at journal block (\d+)/.exec(line);
      if (block) told.set(`${sequence}:${block[1]}`, Number(block[2]));
    }
    expect(told.size).toBeGreaterThan(5);
    const ours = new Map(journal?.copies.map((copy) => [`${copy.sequence}:${copy.block}`, places.indexOf(copy.at)]));
    for (const [key, place] of told) expect(ours.get(key), key).toBe(place);
    expect(journal?.replay.size).toBeGreaterThan(0);
  });

  test("once replayed, the list is what debugfs lists after e2fsck has replayed it", async () => {
    try {
      shop.run("e2fsck", "-fy", volume);
    } catch {
      // Its exit status says that it mended something: that is what it was called for.
    }
    const replayed = new Set((await listed(shop.source(volume))).files.filter(({ erased }) => !erased).map(({ path }) => path));
    const unclean = (await listed(memorySource(bytes, "phone"))).files
      .filter(({ erased, at }) => !erased && at > start)
      .map(({ path }) => path);
    expect(unclean.sort()).toEqual([...replayed].sort());
  });
});

describe("a checksummed journal that debugfs wrote", () => {
  const image = shop.blank("journal.img", 24);
  shop.run("mkfs.ext4", "-q", "-F", "-b", "1024", "-O", "metadata_csum", image);
  writeFileSync(shop.path("blocks"), noise(2048, 6));
  writeFileSync(shop.path("commands"), `jo -c\njw -b 9000,9001 -r 9005 ${shop.path("blocks")}\njc\n`);
  shop.run("debugfs", "-w", "-f", shop.path("commands"), image);
  const bytes = shop.bytes(image);
  const journalAt = Number(/^\d+/.exec(shop.run("debugfs", "-R", "blocks <8>", image))?.[0]) * 1024;
  const condition = async (changed: Uint8Array) => {
    const { volumes, troubles } = await listed(memorySource(changed, "volume"));
    return { replayed: Number(/(\d+) transactions/.exec(volumes[0].condition ?? "")?.[1]), troubles };
  };
  const broken = "a transaction of the journal does not agree with its check sum: it and later ones are not replayed";

  test("is replayed where its sums agree", async () => {
    expect(await condition(bytes)).toEqual({ replayed: 1, troubles: [] });
  });

  test.each([
    ["descriptor", 1, 0, [broken]],
    ["data", 2, 1, ["a block of the journal does not agree with its check sum, and is not replayed"]],
    ["revoke", 4, 0, [broken]],
    ["commit", 5, 0, [broken]],
  ])("its %s block is broken: what cannot be trusted is not replayed, and that is said", async (_, block, replayed, troubles) => {
    const changed = bytes.slice();
    changed[journalAt + block * 1024 + 40] ^= 1;
    expect(await condition(changed)).toEqual({ replayed, troubles });
  });
});

test("CRC-32C is RFC 3720's: its worked examples (appendix B.4)", () => {
  const crc = (bytes: Uint8Array) => (runningCrc(Polynomial.crc32c, 0xffff_ffff, bytes) ^ 0xffff_ffff) >>> 0;
  expect(crc(new Uint8Array(32))).toBe(0x8a91_36aa);
  expect(crc(new Uint8Array(32).fill(0xff))).toBe(0x62a8_ab43);
  expect(crc(Uint8Array.from({ length: 32 }, (_, index) => index))).toBe(0x46dd_794e);
});

test("names in the slack of a folder's entries are found; chance bytes are not names", () => {
  const block = new Uint8Array(1024);
  const entry = (at: number, inode: number, length: number, name: string) => {
    block.set([inode, 0, 0, 0, length & 0xff, length >> 8, name.length, 1], at);
    block.set(new TextEncoder().encode(name), at + 8);
  };
  entry(0, 12, 1024, "kept.txt");
  entry(16, 13, 20, "erased.jpg");
  block.set(noise(200, 3), 400);
  const { names, sound } = readFolderBlock(block, 100);
  expect(sound).toBe(true);
  expect(names.map(({ inode, name, live }) => [inode, name, live])).toEqual([
    [12, "kept.txt", true],
    [13, "erased.jpg", false],
  ]);
});

describe("one broken name costs the others nothing", () => {
  const image = shop.blank("names.img", 24);
  shop.run("mkfs.ext4", "-q", "-F", "-d", tree, "-O", "^metadata_csum,^dir_index", image);
  test.each([
    ["a zero", 0],
    ["a slash", 0x2f],
  ])("%s in the middle of it", async (_, byte) => {
    const bytes = shop.bytes(image);
    const at = Buffer.from(bytes.buffer).indexOf("a name that fills the list 7.txt", 0, "latin1");
    const { files, troubles } = await listed(memorySource(patched(bytes, at + 9, [byte]), "volume"));
    expect(troubles).toEqual([]);
    expect(files.filter(({ path }) => path?.startsWith("/many/"))).toHaveLength(400);
    expect(files.map(({ path }) => path)).toContain("/many/a name th\ufffdt fills the list 7.txt");
  });
});

test("absurd block maps do not make a scan read the volume again and again", async () => {
  const numbers = new Uint8Array(4 * 1024 * 1024);
  const view = new DataView(numbers.buffer);
  const chance = noise(numbers.length, 77);
  for (let at = 0; at < numbers.length; at += 4) view.setUint32(at, ((chance[at] << 8) | chance[at + 1]) % 33_000, true);
  const files = new Map<string, Uint8Array>([["numbers.bin", numbers]]);
  for (let number = 0; number < 60; number++) files.set(`file ${number}.bin`, noise(3000, number));
  const root = shop.tree("absurd", files);
  const image = shop.blank("absurd.img", 33);
  shop.run("mkfs.ext4", "-q", "-F", "-b", "1024", "-O", "^has_journal,^extent,^64bit", "-d", root, image);
  const blocks = shop.run("debugfs", "-R", "blocks /numbers.bin", image).trim().split(/\s+/).map(Number);
  const commands: string[] = [];
  for (let number = 0; number < 60; number++) {
    const path = `"/file ${number}.bin"`;
    // Its size is one that a block map can have; its trees begin in another file's numbers.
    commands.push(`sif ${path} size 16000000000`);
    for (const [level, block] of [
      ["IND", 100 + number],
      ["DIND", 700 + number * 3],
      ["TIND", 1500 + number * 7],
    ] as const)
      commands.push(`sif ${path} block[${level}] ${blocks[block]}`);
  }
  writeFileSync(shop.path("absurd commands"), `${commands.join("\n")}\n`);
  shop.run("debugfs", "-w", "-f", shop.path("absurd commands"), image);
  const source = shop.source(image);
  let read = 0;
  const counted = {
    ...source,
    read(offset: number, length: number) {
      read += length;
      return source.read(offset, length);
    },
  };
  const { files: found } = await listed(counted);
  expect(found).toHaveLength(61);
  expect(read).toBeLessThan(2 * source.size);
});
