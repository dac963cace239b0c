import { execFileSync } from "node:child_process";
import { afterAll, describe, expect, test } from "vitest";
import { z } from "zod";
import { Workshop } from "../../test/workshop.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { UnusableError } from "../bytes/source.ts";
import { readPartitions } from "./partitions.ts";

/** A medium of `sectors` sectors with a classic partition table of [indicator, type, first sector, sectors] entries. */
function medium(sectors: number, entries: readonly (readonly [number, number, number, number])[]) {
  const bytes = Buffer.alloc(sectors * 512);
  entries.forEach(([indicator, type, first, count], index) => {
    const at = 446 + index * 16;
    bytes[at] = indicator;
    bytes[at + 4] = type;
    bytes.writeUInt32LE(first, at + 8);
    bytes.writeUInt32LE(count, at + 12);
  });
  bytes.writeUInt16LE(0xaa55, 510);
  return memorySource(new Uint8Array(bytes), "card");
}

test("partitions are those of the table, empty entries left out", async () => {
  const table = [
    [0x80, 0x0c, 8, 20],
    [0, 0, 0, 0],
    [0, 0x0b, 28, 4],
  ] as const;
  expect(await readPartitions(medium(64, table))).toEqual({
    partitions: [
      { start: 8 * 512, length: 20 * 512, type: 0x0c, name: null },
      { start: 28 * 512, length: 4 * 512, type: 0x0b, name: null },
    ],
    troubles: [],
    table: true,
  });
});

test("a medium that was cut off keeps what is there, and says how much is missing", async () => {
  expect(await readPartitions(medium(16, [[0, 0x0c, 8, 20]]))).toEqual({
    partitions: [{ start: 4096, length: 4096, type: 0x0c, name: null }],
    troubles: [{ what: "card is cut off: 6144 bytes of partition 1 are missing", at: 8192, length: 6144 }],
    table: true,
  });
});

test("a partition beyond the end is said, and the whole medium is worked on", async () => {
  expect(await readPartitions(medium(16, [[0, 0x0c, 400, 20]]))).toEqual({
    partitions: [{ start: 0, length: 8192, type: 0, name: null }],
    troubles: [{ what: "partition 1 lies beyond the end of card", at: 446, length: 16 }],
    table: false,
  });
});

test.each([
  ["no signature", memorySource(new Uint8Array(4096), "card")],
  ["boot code where the table would be", medium(8, [[0x33, 0x0c, 1, 4]])],
  ["a table without entries", medium(8, [])],
])("%s: one stretch from start to end", async (_, source) => {
  expect((await readPartitions(source)).partitions).toEqual([{ start: 0, length: source.size, type: 0, name: null }]);
});

test("an empty source is refused in a plain sentence", async () => {
  await expect(readPartitions(memorySource(new Uint8Array(0), "card"))).rejects.toEqual(
    new UnusableError("card is empty: there is nothing in it to look for."),
  );
});

describe("tables by the real tools", () => {
  const shop = new Workshop();
  afterAll(shop.close);
  const gpt = shop.blank("gpt.img", 16);
  shop.run("sgdisk", "-n", "1:2048:+1M", "-c", "1:misc", "-n", "2:6144:+8M", "-c", "2:userdata", gpt);
  /** What sfdisk itself reads in an image: starts and lengths in bytes. */
  const bySfdisk = (image: string) =>
    z
      .object({ partitiontable: z.object({ partitions: z.array(z.object({ start: z.number(), size: z.number(), type: z.string() })) }) })
      .parse(JSON.parse(shop.run("sfdisk", "--json", image)))
      .partitiontable.partitions.filter(({ type }) => type !== "5" && type !== "f")
      .map(({ start, size }) => [start * 512, size * 512]);
  const read = async (bytes: Uint8Array) => {
    const { partitions, troubles } = await readPartitions(memorySource(bytes, "medium"));
    return { places: partitions.map(({ start, length }) => [start, length]), names: partitions.map(({ name }) => name), troubles };
  };

  test("a GUID table: as sfdisk reads it, with names", async () => {
    const { places, names, troubles } = await read(shop.bytes(gpt));
    expect(places).toEqual(bySfdisk(gpt));
    expect(names).toEqual(["misc", "userdata"]);
    expect(troubles).toEqual([]);
  });

  test("its first header, or its entries, are broken: the copy at the end speaks, and that is said", async () => {
    const wanted = bySfdisk(gpt);
    for (const at of [512 + 50, 1024 + 40]) {
      const bytes = shop.bytes(gpt);
      bytes[at] ^= 0xff;
      const { places, troubles } = await read(bytes);
      expect(places).toEqual(wanted);
      expect(troubles[0].what).toMatch(/the copy at the end is used/);
    }
    const erased = shop.bytes(gpt).fill(0, 0, 34 * 512);
    expect((await read(erased)).places).toEqual(wanted);
  });

  test("an extended partition: its logical volumes as sfdisk reads them; a chain that loops ends", async () => {
    const mbr = shop.blank("mbr.img", 16);
    execFileSync("sfdisk", ["-q", mbr], {
      input: "2048,4096,c\n8192,16384,5\n10240,2048,83\n14336,2048,83\n",
      stdio: ["pipe", "ignore", "ignore"],
    });
    const bytes = shop.bytes(mbr);
    expect((await read(bytes)).places).toEqual(bySfdisk(mbr));
    // The second table's link leads back to the first one.
    const link = Buffer.from(bytes.buffer).indexOf(Buffer.from([0x05]), 8192 * 512 + 446 + 16 + 4);
    expect(link).toBeGreaterThan(0);
    const second = (bytes[link + 4] | (bytes[link + 5] << 8)) * 512 + 8192 * 512;
    bytes.set([0, 0, 0, 0, 5, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0], second + 446 + 16);
    expect((await read(bytes)).places.length).toBe(3);
  });
});
