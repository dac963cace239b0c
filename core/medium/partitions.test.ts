import { expect, test } from "vitest";
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
