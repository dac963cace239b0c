import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { makeZip } from "client-zip";
import { beforeAll, describe, expect, test } from "vitest";
import { broken, live, NEVER, nothingKept, seen } from "../../test/breaks.ts";
import { ExfatCard } from "../../test/exfat-card.ts";
import { joined, jpegOf, noise } from "../../test/pictures.ts";
import { hashOf, scanned } from "../../test/scanning.ts";
import { Workshop } from "../../test/workshop.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { EVERYTHING_THERE } from "./scope.ts";

/**
 * Media that were formatted over by the real mkfs tools, with other clusters or another file system: what was on them before
 * begins where nothing of the present volume can.
 */
const MEBIBYTES = 48;
const shop = new Workshop();
const ascii = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const le = (bytes: number, value: number) => Uint8Array.from({ length: bytes }, (_, index) => Math.floor(value / 256 ** index) % 256);
const frames = joined(...Array.from({ length: 40 }, () => joined(Uint8Array.of(0xff, 0xfb, 0x90, 0x00), noise(413, 19))));

const FILLER = noise(20_000_000, 8);
const FOLDERS = ["DCIM", "DCIM/100SISK3", "Tour", "Tour/Act II"];

/** Contents that end where they say, checked and followed, and such that are known by their look alone. */
const CONTENTS = new Map<string, Uint8Array>();
beforeAll(async () => {
  const zip = new Uint8Array(
    await new Response(makeZip([{ name: "plan.bin", input: noise(9000, 31), lastModified: new Date(0) }])).arrayBuffer(),
  );
  const lines = (word: string, count: number) =>
    ascii(Array.from({ length: count }, (_, line) => `${word} ${line}, after the ${line * 7} bells\n`).join(""));
  CONTENTS.set("DCIM/100SISK3/Lantern, first night.jpg", jpegOf(420, 300, 4));
  CONTENTS.set("DCIM/100SISK3/Lantern, second night.jpg", jpegOf(500, 320, 5));
  CONTENTS.set("Tour/Act II/applause.wav", joined(ascii("RIFF"), le(4, 4 + 70_000), ascii("WAVE"), noise(70_000, 1)));
  CONTENTS.set("Tour/Act II/plan.zip", zip);
  CONTENTS.set("Tour/Act II/letter to Ilse.txt", lines("dear Ilse", 300));
  CONTENTS.set("Tour/programme.pdf", joined(ascii("%PDF-1.7\n1 0 obj\n"), lines("BT", 900), ascii("endobj\nstartxref\n99\n%%EOF\n")));
  CONTENTS.set("Tour/song.mp3", frames);
  CONTENTS.set("Tour/cues.csv", ascii("time,lamp,channel\n".repeat(400)));
  CONTENTS.set("Tour/fox.bmp", joined(ascii("BM"), le(4, 54 + 41_000), le(4, 0), le(4, 54), le(4, 40), noise(36 + 41_000, 3)));
});

const fat = (image: string, sectors: number, bits = 32) =>
  shop.run("mkfs.vfat", "-F", String(bits), "-s", String(sectors), "-n", "CARD", "-f", "1", image);
const put = (image: string, path: string, content: Uint8Array) => {
  const local = join(shop.folder, "put");
  writeFileSync(local, content);
  shop.run("mcopy", "-o", "-m", "-i", image, local, `::/${path}`);
};
/** Fills a FAT volume: something before all others, so that what the next volume writes for itself hits none of them. */
function fillFat(image: string): void {
  put(image, "filler.bin", FILLER);
  for (const folder of FOLDERS) shop.run("mmd", "-i", image, `::/${folder}`);
  for (const [path, content] of CONTENTS) put(image, path, content);
}

/** An ext4 volume with the contents, by the real tools. @returns its path */
function ext4Card(name: string, blockBytes: number): string {
  const image = shop.blank(name, MEBIBYTES);
  shop.run("mkfs.ext4", "-q", "-F", "-b", String(blockBytes), image);
  const writes = [["filler.bin", FILLER] as const, ...CONTENTS].map(([path, content]) => {
    const file = join(shop.folder, path.replaceAll(/[/ ,]/g, "_"));
    writeFileSync(file, content);
    return `write ${file} "/${path}"`;
  });
  const [filler, ...others] = writes;
  // Folders lie behind the filler, where the next volume writes nothing for itself; then it is written again, in its place and in a folder.
  const again = [`rm /filler.bin`, filler.replace('/filler.bin"', '/Tour/filler.bin"')];
  const commands = [filler, ...FOLDERS.map((folder) => `mkdir "/${folder}"`), ...others, ...again];
  writeFileSync(join(shop.folder, "commands"), commands.join("\n"));
  shop.run("debugfs", "-w", "-f", join(shop.folder, "commands"), image);
  return image;
}

async function erasedOf(image: string) {
  const { finds, troubles } = await scanned(memorySource(shop.bytes(image), "card"));
  const erased = [...finds.values()].filter(({ state }) => state === "erased");
  return { erased, troubles: troubles.map(({ what }) => what).join("\n") };
}

type Erased = Awaited<ReturnType<typeof erasedOf>>["erased"];
/** Every content comes back byte for byte, once, and nothing is called whole that never was there. */
function expectAll(erased: Erased): void {
  for (const [path, content] of CONTENTS)
    expect([path, erased.filter(({ sha256 }) => sha256 === hashOf(content)).length]).toEqual([path, 1]);
  const known = new Set(Array.from(CONTENTS.values(), hashOf));
  expect(erased.filter(({ condition, sha256, inside }) => condition === "whole" && !inside && !known.has(sha256 ?? ""))).toEqual([]);
}
function expectNames(erased: Erased): void {
  for (const [path, content] of CONTENTS) {
    const find = erased.find(({ sha256 }) => sha256 === hashOf(content));
    expect([path, find?.name]).toEqual([path, path.slice(path.lastIndexOf("/") + 1)]);
    expect(find?.modified, path).not.toBeNull();
  }
}

describe("contents of a volume that was formatted over", () => {
  test.each([
    ["FAT32, clusters of a sector, then of 32 KiB", 32, 1, 64],
    ["FAT32, clusters of a sector, then of 4 KiB", 32, 1, 8],
    ["FAT16, clusters of 8 KiB, then FAT32 of 1 KiB", 16, 16, 2],
  ])("%s", async (_, bits, before, after) => {
    const image = shop.blank(`fat-${before}-${after}.img`, MEBIBYTES);
    fat(image, before, bits);
    fillFat(image);
    fat(image, after);
    const { erased, troubles } = await erasedOf(image);
    expectAll(erased);
    expectNames(erased);
    expect(troubles).toContain(`an older FAT volume lay here, with clusters of ${before * 512} bytes`);
  });

  test("exFAT, then FAT32: its entries say names and dates, and their sizes where they lie", async () => {
    const card = new ExfatCard(shop, { mebibytes: MEBIBYTES, clusterBytes: 32_768 });
    let cluster = 41;
    const tour = card.makeFolder("Tour", 40);
    for (const [path, content] of CONTENTS) {
      const count = Math.ceil(content.length / card.clusterBytes);
      card.put(
        path.slice(path.lastIndexOf("/") + 1),
        content,
        Array.from({ length: count }, (_, index) => cluster + index),
        path.startsWith("Tour") ? tour : undefined,
      );
      cluster += count + 1;
    }
    writeFileSync(card.image, card.bytes);
    // The partition begins in the middle of what the next one takes for a cluster.
    fat(card.image, 16);
    const { erased, troubles } = await erasedOf(card.image);
    expectAll(erased);
    expectNames(erased);
    expect(erased.find(({ name }) => name === "song.mp3")?.path).toBe("/Tour/song.mp3");
    expect(troubles).toContain("an older exFAT volume lay here, with clusters of 32768 bytes");
  });

  test("FAT32, then ext4", async () => {
    const image = shop.blank("fat-ext4.img", MEBIBYTES);
    fat(image, 1);
    fillFat(image);
    shop.run("mkfs.ext4", "-q", "-F", "-b", "4096", "-E", "nodiscard,lazy_itable_init=1", image);
    const { erased } = await erasedOf(image);
    expectAll(erased);
    expectNames(erased);
  });

  test("ext4 with blocks of 1 KiB, then of 4 KiB, and back", async () => {
    for (const [before, after] of [
      [1024, 4096],
      [4096, 1024],
    ]) {
      const image = ext4Card(`ext4-${before}.img`, before);
      shop.run("mkfs.ext4", "-q", "-F", "-b", String(after), "-E", "nodiscard,lazy_itable_init=1", image);
      const { erased, troubles } = await erasedOf(image);
      expectAll(erased);
      // A volume of one group has no copy of its superblock: nothing says how the old one was laid out.
      if (before === 4096) continue;
      expectNames(erased);
      // The root folder lies under what the new volume wrote for itself: its folders stand where a repair would put them.
      expect(erased.find(({ name }) => name === "cues.csv")?.path).toMatch(/^\/lost\+found\/#\d+\/cues\.csv$/);
      expect(troubles).toContain(`an older ext4 volume lay here, with blocks of ${before} bytes`);
    }
  });

  test("ext4, then FAT16: names, folders and dates come from its inodes", async () => {
    const image = ext4Card("ext4-fat.img", 1024);
    fat(image, 16, 16);
    const { erased, troubles } = await erasedOf(image);
    expect(troubles).toContain("an older ext4 volume lay here, with blocks of 1024 bytes");
    expectAll(erased);
    expectNames(erased);
    expect(erased.find(({ name }) => name === "cues.csv")?.path).toBe("/Tour/cues.csv");
  });

  test("what a new file was written over is no part of the old one any more", async () => {
    const image = ext4Card("ext4-over.img", 1024);
    shop.run("mkfs.ext4", "-q", "-F", "-b", "4096", "-E", "nodiscard,lazy_itable_init=1", image);
    const over = join(shop.folder, "over");
    writeFileSync(over, noise(6_000_000, 77));
    shop.run("debugfs", "-w", "-R", `write ${over} /over.bin`, image);
    const { erased } = await erasedOf(image);
    const filler = erased.find(({ name }) => name === "filler.bin");
    expect(filler).toMatchObject({ size: FILLER.length, condition: "damaged" });
    const holes = (filler?.extents ?? []).filter(({ offset }) => offset < 0).reduce((sum, { length }) => sum + length, 0);
    expect(holes).toBeGreaterThanOrEqual(6_000_000);
    expect(holes).toBeLessThan(11_000_000);
    // What is left of it lies in its place.
    const bytes = shop.bytes(image);
    let at = 0;
    for (const { offset, length } of filler?.extents ?? []) {
      if (offset >= 0) expect(Buffer.from(bytes.subarray(offset, offset + length)).equals(FILLER.subarray(at, at + length))).toBe(true);
      at += length;
    }
    expectAll(erased);
  });

  test("where only texts lay, a copy of the old superblock says where they began", async () => {
    const image = shop.blank("ext4-texts.img", MEBIBYTES);
    const [path, letter] = ["Tour/Act II/letter to Ilse.txt", CONTENTS.get("Tour/Act II/letter to Ilse.txt") ?? new Uint8Array(0)];
    const [file, filler] = [join(shop.folder, "letter"), join(shop.folder, "filler")];
    writeFileSync(file, letter);
    writeFileSync(filler, FILLER);
    writeFileSync(join(shop.folder, "commands"), `write ${filler} /filler.bin\nwrite ${file} /letter.txt\n`);
    shop.run("mkfs.ext4", "-q", "-F", "-b", "1024", image);
    shop.run("debugfs", "-w", "-f", join(shop.folder, "commands"), image);
    shop.run("mkfs.ext4", "-q", "-F", "-b", "4096", "-E", "nodiscard,lazy_itable_init=1", image);
    const { erased } = await erasedOf(image);
    const find = erased.find(({ sha256 }) => sha256 === hashOf(letter));
    expect([path, find?.size]).toEqual([path, letter.length]);
    // It begins where no file of the present volume can.
    expect((find?.extents[0].offset ?? 0) % 4096).not.toBe(0);
  });

  test("a scan of such a card that is broken again and again ends as if it never were", async () => {
    const image = shop.blank("broken.img", MEBIBYTES);
    fat(image, 1);
    fillFat(image);
    fat(image, 8);
    const source = memorySource(shop.bytes(image), "card");
    const deep = { depth: "deep", ...EVERYTHING_THERE } as const;
    const whole = await live(source, deep, nothingKept(deep), NEVER);
    expect(whole.ended).toBe(true);
    for (let seed = 1; seed <= 4; seed++) {
      const { kept, breaks } = await broken(source, deep, seed, whole);
      expect(seen(kept), `seed ${seed}: ${JSON.stringify(breaks)}`).toEqual(seen(whole.kept));
    }
  });
});
