import { afterAll, describe, expect, test } from "vitest";
import { diskBytes } from "../../test/kept-images.ts";
import { joined, jpegOf, noise } from "../../test/pictures.ts";
import { hashOf, scanned } from "../../test/scanning.ts";
import { listed, Workshop } from "../../test/workshop.ts";
import { memorySource } from "../bytes/memory-source.ts";

const shop = new Workshop();
afterAll(shop.close);
const tree = shop.tree("tree", new Map([["SISK0001.JPG", jpegOf(200, 150, 1)]]));
function made(name: string, make: (image: string) => void, mebibytes = 16): Uint8Array {
  const image = shop.blank(name, mebibytes);
  make(image);
  return shop.bytes(image);
}
const ext4 = made("ext4.img", (image) => shop.run("mkfs.ext4", "-q", "-F", "-b", "1024", "-d", tree, image), 24);
const f2fs = made(
  "f2fs.img",
  (image) => {
    shop.run("mkfs.f2fs", "-q", image);
    shop.run("sload.f2fs", "-f", tree, image);
  },
  64,
);

describe("volumes where no partition table says so", () => {
  /** No table, something in front: where the volume begins is no usual place. */
  const shifted = (volume: Uint8Array) => memorySource(joined(new Uint8Array(777 * 512), volume), "medium");

  test.each([
    ["ext4", ext4],
    ["F2FS", f2fs],
    ["ext4", joined(new Uint8Array(2048), ext4.subarray(2048))],
    ["F2FS", joined(new Uint8Array(4096), f2fs.subarray(4096))],
  ])("%s, with its first superblock or a copy of it, is found by reading on", async (filesystem, volume) => {
    const { volumes, files, troubles } = await listed(shifted(volume), { search: true });
    expect(volumes).toEqual([expect.objectContaining({ filesystem, start: 777 * 512 })]);
    expect(files.map(({ path }) => path)).toContain("/SISK0001.JPG");
    expect(troubles).toContain(`a volume (${filesystem}) begins where no partition table says so`);
  });

  test("at a usual place it is found without reading everything", async () => {
    const medium = memorySource(joined(new Uint8Array(2048 * 512), ext4), "medium");
    expect((await listed(medium)).volumes).toEqual([expect.objectContaining({ filesystem: "ext4", start: 2048 * 512 })]);
  });
});

describe("encrypted storage", () => {
  const text = (bytes: Uint8Array, at: number, words: string) =>
    bytes.set(
      Uint8Array.from(words, (letter) => letter.charCodeAt(0)),
      at,
    );

  test("a LUKS header (on-disk format 1.2.3, §2.1) is told, and nothing behind it is searched", async () => {
    const bytes = noise(5 * 1024 * 1024, 3);
    text(bytes, 0, "LUKS\xba\xbe\0\x01aes");
    const { volumes, files } = await listed(memorySource(bytes, "card"));
    expect(volumes).toEqual([expect.objectContaining({ filesystem: "encrypted", encrypted: true, free: 0 })]);
    expect(volumes[0].encryption).toMatch(/a LUKS header, version 1/);
    expect(files).toEqual([]);
  });

  test("a full-disk footer (AOSP cryptfs.h) is told", async () => {
    const bytes = new Uint8Array(2 * 1024 * 1024);
    bytes.set([0xc4, 0xb1, 0xb5, 0xd0], bytes.length - 16 * 1024);
    expect((await listed(memorySource(bytes, "phone"))).volumes[0].encryption).toMatch(/a full-disk footer at its end/);
  });

  test("noise from end to end is told; pictures, which are nearly noise, are not taken for it", async () => {
    expect((await listed(memorySource(noise(5 * 1024 * 1024, 4), "card"))).volumes).toEqual([
      expect.objectContaining({ filesystem: "encrypted" }),
    ]);
    const picture = jpegOf(900, 700, 5);
    const pictures = joined(...Array.from({ length: Math.ceil((5 * 1024 * 1024) / picture.length) }, () => picture));
    expect((await listed(memorySource(pictures, "card"))).volumes).toEqual([]);
  });

  test("file by file: the volume and its files say so, names and contents are not given out", async () => {
    const image = shop.blank("fbe.img", 16);
    shop.run("mkfs.ext4", "-q", "-F", "-O", "encrypt", "-d", tree, image);
    const bytes = shop.bytes(image);
    const { volumes, files } = await listed(memorySource(bytes, "phone"));
    expect(volumes[0]).toMatchObject({ encrypted: true });
    // EXT4_ENCRYPT_FL in i_flags, as the kernel sets it for each file.
    const inodeAt = files[0].traces[1].at;
    bytes[inodeAt + 0x21] |= 0x08;
    const [file] = (await listed(memorySource(bytes, "phone"))).files;
    expect(file.sealed).toMatch(/encrypted it file by file/);
    const [find] = (await scanned(memorySource(bytes, "phone"))).finds.values();
    expect(find).toMatchObject({ state: "present", condition: "remnant" });
    expect(find.because).toMatch(/without the phone's own keys/);
  });
});

test("what begins in the middle of a cluster lies inside another file: the stretch that holds it is a find too", async () => {
  const bytes = diskBytes("sd-exfat").slice();
  const outcome = await scanned(memorySource(bytes, "card"));
  const free = [...outcome.finds.values()].length;
  const picture = jpegOf(300, 200, 7);
  // In free space at the end of the card, 3 KiB into a cluster of 32 KiB.
  const at = bytes.length - 40 * 32_768 - ((bytes.length - 6_291_456) % 32_768) + 3072;
  bytes.set(picture, at);
  const finds = [...(await scanned(memorySource(bytes, "card"))).finds.values()];
  expect(finds.length).toBe(free + 2);
  const found = finds.find(({ sha256 }) => sha256 === hashOf(picture));
  expect(found?.condition).toBe("whole");
  expect(finds.find(({ id }) => id === found?.inside)).toMatchObject({
    condition: "remnant",
    kind: "other",
    extents: [{ offset: at - 3072, length: 32_768 }],
  });
});
