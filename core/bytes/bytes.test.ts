import fc from "fast-check";
import { expect, test } from "vitest";
import { noise } from "../../test/pictures.ts";
import { extentsSource, firstBytes, placeOf, sliceSource } from "./extents.ts";
import { crc32, portableSha256 } from "./hash.ts";
import { layout, u8, u16, u16be, u32, u32be } from "./layout.ts";
import { memorySource } from "./memory-source.ts";
import { partsSource } from "./parts-source.ts";
import { rangeSource } from "./range-source.ts";
import { RangeSet } from "./ranges.ts";

const stretch = fc.record({ offset: fc.nat(400), length: fc.nat(60) });

test("a RangeSet holds the same bytes as a set of single bytes", () => {
  fc.assert(
    fc.property(fc.array(stretch), stretch, (stretches, asked) => {
      const ranges = new RangeSet();
      const single = new Set<number>();
      for (const { offset, length } of stretches) {
        ranges.add(offset, length);
        for (let at = offset; at < offset + length; at++) single.add(at);
      }
      const list = ranges.list();
      expect(list.flatMap(({ offset, length }) => Array.from({ length }, (_, index) => offset + index))).toEqual(
        [...single].sort((a, b) => a - b),
      );
      // Sorted, and neighbours are joined.
      for (let index = 1; index < list.length; index++)
        expect(list[index].offset).toBeGreaterThan(list[index - 1].offset + list[index - 1].length);
      expect(ranges.bytes).toBe(single.size);
      let overlap = 0;
      for (let at = asked.offset; at < asked.offset + asked.length; at++) if (single.has(at)) overlap++;
      expect(ranges.overlap(asked.offset, asked.length)).toBe(overlap);
      expect(ranges.endOfStretchAt(asked.offset) !== null).toBe(single.has(asked.offset));
    }),
  );
});

test("content in extents reads like its pieces set one after the other, from any place", async () => {
  const medium = memorySource(noise(600), "medium");
  await fc.assert(
    fc.asyncProperty(fc.array(stretch, { minLength: 1, maxLength: 8 }), fc.nat(500), fc.nat(500), async (extents, from, length) => {
      const whole = Buffer.concat(await Promise.all(extents.map((extent) => medium.read(extent.offset, extent.length))));
      const content = extentsSource(medium, extents);
      expect(content.size).toBe(whole.length);
      if (from + length > whole.length) await expect(content.read(from, length)).rejects.toThrow(RangeError);
      else expect(Buffer.from(await content.read(from, length))).toEqual(whole.subarray(from, from + length));
      const head = firstBytes(extents, length);
      expect(head.reduce((sum, extent) => sum + extent.length, 0)).toBe(Math.min(length, whole.length));
      if (from < whole.length) expect((await medium.read(placeOf(extents, from), 1))[0]).toBe(whole[from]);
    }),
  );
});

test("parts joined into one source, and a slice of it, read across the seams", async () => {
  const parts = [noise(100, 1), noise(1, 2), noise(77, 3)].map((bytes, index) => memorySource(bytes, `part ${index}`));
  const source = partsSource(
    "split",
    parts.map((part) => ({ length: part.size, read: (offset, length) => part.read(offset, length) })),
  );
  const whole = Buffer.concat(await Promise.all(parts.map((part) => part.read(0, part.size))));
  expect(source.size).toBe(178);
  expect(Buffer.from(await source.read(98, 6))).toEqual(whole.subarray(98, 104));
  expect(Buffer.from(await sliceSource(source, 90, 40).read(5, 30))).toEqual(whole.subarray(95, 125));
});

test.each([
  ["answers something else than a part", 200, 10],
  ["gives fewer bytes than were asked for", 206, 9],
  ["gives more bytes than were asked for", 206, 11],
])("a server that %s is an unreadable place, not wrong bytes", async (_, status, length) => {
  const source = rangeSource(async () => ({ status, bytes: new Uint8Array(length) }), 100, "remote");
  await expect(source.read(20, 10)).rejects.toMatchObject({ name: "UnreadableError", offset: 20, length: 10 });
});

test("fields read their bytes in the order the layout says", () => {
  const bytes = Uint8Array.of(0x01, 0x02, 0x03, 0xf4);
  expect([u8(3)(bytes, 0), u16(0)(bytes, 1), u16be(0)(bytes, 1), u32(0)(bytes, 0), u32be(0)(bytes, 0)]).toEqual([
    0xf4, 0x0302, 0x0203, 0xf4030201, 0x010203f4,
  ]);
});

test("a layout with overlapping fields, or fields over its end, does not load", () => {
  expect(() => layout(8, { a: u32(0), b: u16(3) })).toThrow("b overlaps");
  expect(() => layout(8, { a: u32(6) })).toThrow("a runs over the end");
});

test("SHA-256 and CRC-32 give their published check values", async () => {
  const sha256 = await portableSha256();
  sha256.start();
  sha256.update(new TextEncoder().encode("a"));
  sha256.update(new TextEncoder().encode("bc"));
  // FIPS 180-4's example message "abc".
  expect(sha256.digest()).toBe("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
  const crc = await crc32();
  crc.start();
  crc.update(new TextEncoder().encode("123456789"));
  // The check value of the CRC-32 of ISO/IEC 15948 and 3309 (from memory).
  expect(crc.digest()).toBe(0xcbf43926);
});
