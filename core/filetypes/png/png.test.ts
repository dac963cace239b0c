import { expect, test } from "vitest";
import { joined, noise, patched, pngOf } from "../../../test/pictures.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { png } from "./png.ts";

const good = pngOf(40, 30);
const measure = (bytes: Uint8Array) => png.measure(memorySource(bytes, "picture"));

test("a PNG by pngjs is whole, and as long as it is, whatever follows it", async () => {
  expect(await measure(joined(good, noise(5000)))).toEqual({
    length: good.length,
    condition: "whole",
    because: "every chunk to the end one agrees with its check sum",
    width: 40,
    height: 30,
    shown: 1,
    hasExif: false,
  });
});

test("the smallest PNG by hand: the CRC of IEND is the published one (ISO/IEC 15948: 00 00 00 00 49 45 4E 44 AE 42 60 82)", async () => {
  expect([...good.slice(-12)]).toEqual([0, 0, 0, 0, 0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82]);
  const wrong = patched(good, good.length - 1, [0x83]);
  expect(await measure(wrong)).toMatchObject({ condition: "damaged", because: "the check sum of its chunk IEND does not fit" });
});

test("cut at every length: never whole, never a throw, never longer than what is there", async () => {
  for (let length = 8; length < good.length; length++) {
    const told = await measure(good.slice(0, length));
    expect(told.condition, `${length} bytes`).not.toBe("whole");
    expect(told.length).toBeLessThanOrEqual(length);
  }
});

test("every single changed byte after the signature is noticed", async () => {
  for (let at = 8; at < good.length; at += 7) expect((await measure(patched(good, at, [good[at] ^ 0x10]))).condition).not.toBe("whole");
});

test.each([
  ["a chunk that claims more than can be", 8, [0x7f, 0xff, 0xff, 0xff], "remnant", "the bytes end within its chunk IHDR"],
  ["a length beyond what the standard allows", 8, [0xff, 0xff, 0xff, 0xff], "remnant", "no chunk where one must be"],
  ["a first chunk that is no header", 12, [0x49, 0x44, 0x41, 0x54], "remnant", "its header chunk is not the first one"],
])("%s", async (_, at, bytes, condition, because) => {
  expect(await measure(patched(good, at, bytes))).toMatchObject({ condition, because });
});
