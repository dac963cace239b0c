import { writeFileSync } from "node:fs";
import { afterAll, describe, expect, test } from "vitest";
import { MOMENT, run } from "../../../test/fat-card.ts";
import { jpegOf, noise } from "../../../test/pictures.ts";
import { hashOf, scanned } from "../../../test/scanning.ts";
import { listed, Workshop } from "../../../test/workshop.ts";
import { extentsSource } from "../../bytes/extents.ts";
import { memorySource } from "../../bytes/memory-source.ts";

const shop = new Workshop();
afterAll(shop.close);

function format(name: string, mebibytes: number, ...options: string[]): string {
  const image = shop.blank(name, mebibytes);
  run("mkfs.vfat", ...options, "-n", "TEST CARD", image);
  return image;
}
function put(image: string, path: string, content: Uint8Array): void {
  writeFileSync(shop.path("put"), content);
  run("touch", "-d", MOMENT.toISOString(), shop.path("put"));
  run("mcopy", "-i", image, "-o", "-m", shop.path("put"), `::${path}`);
}

describe.each([
  ["FAT12", 4, ["-F", "12"]],
  ["FAT16", 40, ["-F", "16", "-s", "2"]],
] as const)("%s, by mkfs.vfat and mtools", (kind, mebibytes, options) => {
  const image = format(`${kind}.img`, mebibytes, ...options);
  run("mmd", "-i", image, "::/DCIM");
  const FILES = new Map([
    ["/README.TXT", noise(30_000, 1)],
    ["/DCIM/Афиша май.png", noise(70_001, 2)],
    ["/DCIM/SISK0001.JPG", noise(900, 3)],
  ]);
  for (const [path, content] of FILES) put(image, path, content);

  test("lists what mdir lists, with content and free space", async () => {
    const source = shop.source(image);
    const { volumes, files, troubles } = await listed(source);
    expect(troubles).toEqual([]);
    expect(volumes).toEqual([expect.objectContaining({ filesystem: kind, label: "TEST CARD" })]);
    const byMdir = run("mdir", "-i", image, "-/", "-b", "-a", "::/").toString().split("\n");
    const paths = byMdir.map((line) => line.replace(/^::/, "").trim()).filter((line) => line !== "" && !line.endsWith("/"));
    expect(files.map(({ path }) => path).sort()).toEqual(paths.sort());
    for (const file of files) {
      const content = extentsSource(source, file.placements[0].extents);
      expect(
        Buffer.from(await content.read(0, content.size)).equals(FILES.get(file.path ?? "") ?? new Uint8Array(1)),
        file.path ?? "",
      ).toBe(true);
    }
    const free = Number(/([\d ]+) bytes free/.exec(run("mdir", "-i", image, "::/").toString())?.[1].replaceAll(" ", ""));
    expect(volumes[0].free).toBe(free);
  });

  test("an erased file comes back", async () => {
    run("mdel", "-i", image, "::/README.TXT");
    const source = shop.source(image);
    const [erased] = (await listed(source)).files.filter((file) => file.erased);
    expect(erased).toMatchObject({ name: "?EADME.TXT", size: 30_000 });
    const content = extentsSource(source, erased.placements[0].extents);
    expect(hashOf(await content.read(0, content.size))).toBe(hashOf(noise(30_000, 1)));
  });
});

describe("a card that was formatted over with another cluster size", () => {
  const image = format("old.img", 48, "-F", "32", "-s", "1");
  for (const folder of ["/DCIM", "/DCIM/100SISK3", "/Tour", "/Tour/Act II"]) run("mmd", "-i", image, `::${folder}`);
  const picture = jpegOf(420, 300, 4);
  const letter = noise(30_000, 5);
  // What lies behind where the new volume keeps its own tables is still there.
  put(image, "/filler.bin", noise(2_000_000, 8));
  put(image, "/DCIM/100SISK3/Lantern, first night.jpg", picture);
  put(image, "/Tour/Act II/letter to Ilse.txt", letter);
  run("mkfs.vfat", "-F", "32", "-s", "8", "-n", "NEW", "-f", "1", image);
  const bytes = shop.bytes(image);

  test("its folders, found in free space, tell the old layout, and their files come back with names and folders", async () => {
    const outcome = await scanned(memorySource(bytes, "card"));
    const finds = [...outcome.finds.values()].filter(({ state }) => state === "erased");
    expect(outcome.troubles.map(({ what }) => what).join()).toMatch(/an older FAT volume lay here, with clusters of 512 bytes/);
    expect(finds.find(({ sha256 }) => sha256 === hashOf(picture))).toMatchObject({ name: "Lantern, first night.jpg", condition: "whole" });
    expect(finds.find(({ sha256 }) => sha256 === hashOf(letter))).toMatchObject({ name: "letter to Ilse.txt", checked: false });
    expect(finds.filter(({ name }) => name === "Lantern, first night.jpg").length).toBe(1);
  });
});

test("clusters that are in use but led to by nothing are searched, and their content is told of", async () => {
  const image = format("lost.img", 40, "-F", "16", "-s", "2");
  const picture = jpegOf(300, 220, 6);
  put(image, "/SISK0001.JPG", picture);
  const bytes = shop.bytes(image);
  // Its entry is gone, its chain stands: as after a crash of the device.
  const entry = Buffer.from(bytes.buffer).indexOf("SISK0001JPG", 0, "latin1");
  bytes.fill(0, entry, entry + 32);
  const outcome = await scanned(memorySource(bytes, "card"));
  expect(outcome.troubles.map(({ what }) => what).join()).toMatch(/clusters are marked as in use, but nothing leads to them/);
  expect([...outcome.finds.values()].map(({ state, sha256 }) => [state, sha256])).toContainEqual(["erased", hashOf(picture)]);
});
