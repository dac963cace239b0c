import { afterAll, describe, expect, test } from "vitest";
import { FatCard, MOMENT } from "../../../test/fat-card.ts";
import { jpegOf, noise, patched } from "../../../test/pictures.ts";
import { listed } from "../../../test/workshop.ts";
import { extentsSource } from "../../bytes/extents.ts";
import { faultySource } from "../../bytes/faulty-source.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { ListedFile } from "../volume.ts";
import { BootSector, DirEntry, LongEntry } from "./layout.ts";
import { shortNameChecksum } from "./names.ts";

const LONG = "Ein sehr langer Name über dreizehn Zeichen, Akt II.jpeg";
const FILES: readonly (readonly [string, Uint8Array])[] = [
  ["/README.TXT", new TextEncoder().encode("short and upper case")],
  ["/lower.txt", noise(1, 2)],
  [`/DCIM/100SISK3/${LONG}`, jpegOf(300, 200)],
  ["/DCIM/100SISK3/SISK0001.JPG", noise(40_000, 3)],
  ["/DCIM/100SISK3/Афиша май.png", noise(3 * 512, 4)],
  ["/DCIM/empty.bin", new Uint8Array(0)],
  ["/Übergrößen.dat", noise(700, 5)],
];
const card = new FatCard().makeFolder("/DCIM").makeFolder("/DCIM/100SISK3");
for (const [path, content] of FILES) card.put(path, content);
const spare: FatCard[] = [];
const freshCard = (options?: { sectorsPerCluster?: number }): FatCard => {
  const fresh = new FatCard(options);
  spare.push(fresh);
  return fresh;
};
afterAll(() => {
  for (const one of [card, ...spare]) one.remove();
});

const contentOf = async (source: ByteSource, file: ListedFile, placement = 0): Promise<Buffer> => {
  const content = extentsSource(source, file.placements[placement]?.extents ?? []);
  return Buffer.from(await content.read(0, content.size));
};
const named = (files: readonly ListedFile[], path: string): ListedFile => {
  const file = files.find((one) => one.path === path);
  if (!file) throw new Error(`${path} is not among ${files.map((one) => one.path).join(", ")}`);
  return file;
};

describe("a card by mkfs.vfat and mtools", () => {
  test("lists what mdir lists, and gives what mtype gives", async () => {
    const { files, volumes, troubles } = await listed(card.source());
    const byMdir = card
      .tool("mdir", "-/", "-b", "-a", "::/")
      .split("\n")
      .map((line) => line.replace(/^::/, "").trim())
      .filter((line) => line !== "" && !line.endsWith("/"));
    expect(files.map(({ path }) => path).sort()).toEqual(byMdir.sort());
    expect(files.map(({ path }) => path).sort()).toEqual(FILES.map(([path]) => path).sort());
    for (const [path, content] of FILES) {
      const file = named(files, path);
      expect(file).toMatchObject({ erased: false, size: content.length, modified: MOMENT.getTime() });
      expect((await contentOf(card.source(), file)).equals(card.toolBytes("mtype", `::${path}`)), path).toBe(true);
    }
    expect(troubles).toEqual([]);
    expect(volumes[0]).toMatchObject({ filesystem: "FAT32", label: "TEST CARD", start: 0, clusterBytes: 512 });
  });

  test("has as many free clusters as minfo's FSInfo says", async () => {
    const { volumes } = await listed(card.source());
    const free = Number(/free clusters=(\d+)/.exec(card.tool("minfo", "::"))?.[1]);
    expect(volumes[0].free).toBe(free * 512);
  });

  test("binds long entries to short names with the sum of the document's ChkSum()", () => {
    const bytes = card.bytes();
    /** ChkSum() as the FAT document prints it, with its unsigned char arithmetic. */
    const published = (name: Uint8Array): number => {
      let sum = 0;
      for (const byte of name) sum = ((sum & 1 ? 0x80 : 0) + (sum >> 1) + byte) & 0xff;
      return sum;
    };
    let checked = 0;
    for (let at = 0; at + 64 <= bytes.length; at += 32) {
      if ((LongEntry.order(bytes, at) & 0x3f) !== 1 || LongEntry.attributes(bytes, at) !== 0x0f || LongEntry.type(bytes, at) !== 0)
        continue;
      const name = DirEntry.name(bytes, at + 32);
      expect(shortNameChecksum(name)).toBe(LongEntry.checksum(bytes, at));
      expect(shortNameChecksum(name)).toBe(published(name));
      checked++;
    }
    expect(checked).toBeGreaterThanOrEqual(2);
  });
});

describe("erased files", () => {
  test("come with name, folder, date and content; a lost first letter is shown as lost", async () => {
    const content = jpegOf(220, 160, 4);
    const fresh = freshCard().makeFolder("/DCIM").put("/DCIM/SISK0001.JPG", content).put(`/DCIM/${LONG}`, content);
    fresh.put("/DCIM/SISK0003.JPG", noise(900)).erase("/DCIM/SISK0001.JPG").erase(`/DCIM/${LONG}`);
    const { files } = await listed(fresh.source());
    expect(files.filter(({ erased }) => erased).map(({ path }) => path)).toEqual(["/DCIM/?ISK0001.JPG", `/DCIM/${LONG}`]);
    for (const path of ["/DCIM/?ISK0001.JPG", `/DCIM/${LONG}`]) {
      const file = named(files, path);
      expect(file).toMatchObject({ size: content.length, modified: MOMENT.getTime() });
      expect((await contentOf(fresh.source(), file)).equals(content)).toBe(true);
    }
    expect(named(files, "/DCIM/?ISK0001.JPG").traces.map(({ what }) => what)).toContain(
      "the first letter of its name was overwritten by the deletion",
    );
  });

  test("a lost letter is worked out from the sum of the long name, where there is one", async () => {
    const fresh = freshCard().put("/Quite long for this.txt", noise(100)).put("/After.txt", noise(5));
    fresh.erase("/Quite long for this.txt");
    // The last part of the long name is gone: what is left of it still carries the sum.
    const bytes = fresh.bytes();
    const at = Buffer.from(bytes).indexOf("\u00e5UITEL~1TXT", 0, "latin1");
    expect(at).toBeGreaterThan(0);
    const { files } = await listed(memorySource(patched(bytes, at - 64, new Uint8Array(32)), "card"));
    expect(files.find(({ erased }) => erased)?.name).toBe("QUITEL~1.TXT");
  });

  test("a whole folder and what was in it, its deeper folders too", async () => {
    const fresh = freshCard().makeFolder("/Tour").makeFolder("/Tour/Lantern");
    fresh.put("/Tour/Plan for May.txt", noise(50)).put("/Tour/Lantern/Poster, large.png", noise(5000, 8));
    fresh.eraseFolder("/Tour");
    const { files } = await listed(fresh.source());
    expect(files.map(({ path, erased }) => [path, erased])).toEqual([
      ["/Tour/Plan for May.txt", true],
      ["/Tour/Lantern/Poster, large.png", true],
    ]);
    expect((await contentOf(fresh.source(), files[1])).equals(noise(5000, 8))).toBe(true);
  });

  test("a folder whose list lies in pieces keeps its files, and says that this was judged by its look", async () => {
    const fresh = freshCard().makeFolder("/Tour");
    for (let number = 10; number < 50; number++) fresh.put(`/Tour/SISK00${number}.JPG`, noise(600, number));
    fresh.eraseFolder("/Tour");
    const { files } = await listed(fresh.source());
    expect(files.map(({ path }) => path)).toEqual(Array.from({ length: 40 }, (_, index) => `/Tour/?ISK00${index + 10}.JPG`));
    expect(files[39].traces.map(({ what }) => what)).toContain(
      "the list of that folder lies in pieces; by its look, this piece belongs to it",
    );
  });

  test("in pieces: clusters in use are skipped, or the run stops at the first of them; both readings are offered", async () => {
    const fresh = freshCard();
    for (let number = 0; number < 6; number++) fresh.put(`/gap${number}.bin`, noise(512 * 4, number));
    for (const number of [1, 3]) fresh.erase(`/gap${number}.bin`);
    const content = noise(512 * 7, 77);
    // The free-cluster hint is set back, so the next file lies in the gaps.
    const bytes = fresh.bytes();
    const hint = BootSector.fsInfoSector(bytes, 0) * 512 + 492;
    fresh.write(patched(bytes, hint, [2, 0, 0, 0]));
    fresh.put("/inpieces.bin", content).erase("/inpieces.bin");
    const { files } = await listed(fresh.source());
    const file = named(files, "/?npieces.bin");
    expect(file.placements[0].extents.length).toBeGreaterThan(1);
    expect((await contentOf(fresh.source(), file, 0)).equals(content)).toBe(true);
    expect((await contentOf(fresh.source(), file, 1)).length).toBeLessThan(content.length);
  });
});

describe("a card that is not well", () => {
  const boot = card.bytes();
  const reserved = BootSector.reservedSectors(boot, 0) * 512;
  const dead = (start: number, length: number) => faultySource(card.source(), [{ start, length, behaviour: "dead" }], async () => {});
  const all = FILES.map(([path]) => path).sort();

  test("its boot sector is dead: the copy of it is used", async () => {
    const { files, troubles } = await listed(dead(0, 512));
    expect(files.map(({ path }) => path).sort()).toEqual(all);
    expect(troubles).toContain("the boot sector is lost; its copy is used");
  });

  test("the first table is dead in part: its copy speaks for it", async () => {
    const { files, troubles } = await listed(dead(reserved, 1024));
    expect(troubles).toContain("a part of the allocation table cannot be read; its copy is used there");
    for (const [path, content] of FILES) expect((await contentOf(card.source(), named(files, path))).equals(content), path).toBe(true);
  });

  test("a chain that loops ends where it comes back to itself", async () => {
    const { files: before } = await listed(card.source());
    const first = named(before, "/DCIM/100SISK3/SISK0001.JPG").firstByte ?? 0;
    const cluster = 2 + (first - (reserved + 2 * BootSector.fatSize32(boot, 0) * 512)) / 512;
    const back = [cluster & 0xff, (cluster >> 8) & 0xff, (cluster >> 16) & 0xff, 0];
    const looped = [0, 1].reduce(
      (bytes, table) => patched(bytes, reserved + table * BootSector.fatSize32(boot, 0) * 512 + (cluster + 2) * 4, back),
      card.bytes(),
    );
    expect((await listed(memorySource(looped, "card"))).troubles[0]).toBe(
      "the chain of /DCIM/100SISK3/SISK0001.JPG breaks off after 3 of 79 clusters",
    );
  });

  test("a sector of a folder's list is dead: the rest of the list is read, and the loss is said", async () => {
    const many = freshCard().makeFolder("/DCIM");
    for (let number = 10; number < 50; number++) many.put(`/DCIM/SISK00${number}.JPG`, noise(600, number));
    const { files } = await listed(many.source());
    const sector = Math.floor(named(files, "/DCIM/SISK0030.JPG").at / 512) * 512;
    const source = faultySource(many.source(), [{ start: sector, length: 512, behaviour: "dead" }], async () => {});
    const hurt = await listed(source);
    expect(hurt.troubles).toContain("512 bytes of the list of /DCIM/ cannot be read: files named there are missing");
    expect(hurt.files.length).toBe(40 - 16);
  });

  test("it was cut off: what is there is listed, and the missing part is said", async () => {
    const { files, troubles } = await listed(memorySource(card.bytes().slice(0, 3 * 1024 * 1024), "card"));
    expect(files.map(({ path }) => path).sort()).toEqual(all);
    expect(troubles).toContain(`the volume is cut off: its last ${31 * 1024 * 1024} bytes are missing`);
  });

  test("a folder that contains itself is walked once, and said so", async () => {
    const fresh = freshCard().makeFolder("/Loop").put("/Loop/a.txt", noise(9)).makeFolder("/Loop/Inner");
    const bytes = fresh.bytes();
    const loop = Buffer.from(bytes).indexOf("LOOP       ", 0, "latin1");
    const inner = Buffer.from(bytes).indexOf("INNER      ", 0, "latin1");
    const { files, troubles } = await listed(memorySource(patched(bytes, inner + 26, [DirEntry.firstClusterLow(bytes, loop), 0]), "card"));
    expect(files.map(({ name }) => name)).toEqual(["a.txt"]);
    expect(troubles).toEqual([
      "/Loop/Inner/ leads into itself or into another folder",
      "1 clusters are marked as in use, but nothing leads to them: they are searched like free ones",
    ]);
  });

  test("a chain that leads off the volume is read from the second table; broken there too, it ends, with the file's name in the trouble", async () => {
    const { files: before } = await listed(card.source());
    const first = named(before, "/DCIM/100SISK3/SISK0001.JPG").firstByte ?? 0;
    const geometry = (await listed(card.source())).volumes[0];
    const cluster = 2 + (first - (geometry.start + reserved + 2 * BootSector.fatSize32(boot, 0) * 512)) / 512;
    const link = (cluster + 3) * 4;
    const broken = patched(card.bytes(), reserved + link, [0xf0, 0xff, 0xff, 0x00]);
    expect((await listed(memorySource(broken, "card"))).troubles).toEqual([
      `the allocation table is broken at cluster ${cluster + 3}; its copy is used there`,
      "the two allocation tables differ in 1 entries",
    ]);
    const both = patched(broken, reserved + BootSector.fatSize32(boot, 0) * 512 + link, [0xf0, 0xff, 0xff, 0x00]);
    const { files, troubles } = await listed(memorySource(both, "card"));
    expect(files.length).toBe(FILES.length);
    expect(troubles).toEqual([
      "the chain of /DCIM/100SISK3/SISK0001.JPG breaks off after 4 of 79 clusters",
      "75 clusters are marked as in use, but nothing leads to them: they are searched like free ones",
    ]);
  });

  test("a chain that ends in a bad cluster is not complete", async () => {
    const { files: before, volumes } = await listed(card.source());
    const first = named(before, "/DCIM/100SISK3/SISK0001.JPG").firstByte ?? 0;
    const cluster = 2 + (first - (volumes[0].start + reserved + 2 * BootSector.fatSize32(boot, 0) * 512)) / 512;
    // The mark of a bad cluster ("FAT: General Overview of On-Disk Format" 1.03, the FAT data structure), in both tables.
    const link = reserved + (cluster + 3) * 4;
    const bad = [0xf7, 0xff, 0xff, 0x0f];
    const both = patched(patched(card.bytes(), link, bad), link + BootSector.fatSize32(boot, 0) * 512, bad);
    const { troubles } = await listed(memorySource(both, "card"));
    expect(troubles).toContain("the chain of /DCIM/100SISK3/SISK0001.JPG breaks off after 4 of 79 clusters");
  });

  test("nor is a folder's, which no size tells the end of", async () => {
    const folder = freshCard().makeFolder("/DCIM");
    for (let number = 10; number < 50; number++) folder.put(`/DCIM/SISK00${number}.JPG`, noise(600, number));
    const bytes = folder.bytes();
    const entry = Buffer.from(bytes).indexOf("DCIM       ", 0, "latin1");
    const link = reserved + DirEntry.firstClusterLow(bytes, entry) * 4;
    const bad = [0xf7, 0xff, 0xff, 0x0f];
    const both = patched(patched(bytes, link, bad), link + BootSector.fatSize32(boot, 0) * 512, bad);
    expect((await listed(memorySource(both, "card"))).troubles).toContain("the chain of /DCIM/ breaks off");
  });

  test.each([
    ["sectors of 511 bytes", 11, [0xff, 0x01]],
    ["no sectors in a cluster", 13, [0]],
    ["no tables", 16, [0]],
    ["a table beyond the medium", 36, [0xff, 0xff, 0xff, 0x7f]],
    ["a root before the first cluster", 44, [1, 0, 0, 0]],
  ])("a boot sector with %s is none: the copy behind it is taken", async (_, at, bytes) => {
    const { volumes, troubles } = await listed(memorySource(patched(card.bytes(), at, bytes), "card"));
    expect(volumes.length).toBe(1);
    expect(troubles).toContain("the boot sector is lost; its copy is used");
  });
});
