import { spawnSync } from "node:child_process";
import { crc32, deflateSync } from "node:zlib";
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
    because: "every chunk to the end one agrees with its check sum, and its picture unpacks whole",
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

/** Chunks as §5.3 lays them out, check sums right: what is wrong with these pictures is what they hold. */
function built(header: readonly number[], data: Uint8Array, more: readonly (readonly [string, Uint8Array])[] = []): Uint8Array {
  const chunk = (type: string, body: Uint8Array) => {
    const bytes = Buffer.alloc(12 + body.length);
    bytes.writeUInt32BE(body.length, 0);
    bytes.write(type, 4, "latin1");
    bytes.set(body, 8);
    bytes.writeUInt32BE(crc32(bytes.subarray(4, 8 + body.length)), 8 + body.length);
    return bytes;
  };
  const ihdr = Buffer.alloc(13);
  ihdr.writeUInt32BE(header[0], 0);
  ihdr.writeUInt32BE(header[1], 4);
  ihdr.set(header.slice(2), 8);
  return joined(
    good.slice(0, 8),
    chunk("IHDR", ihdr),
    ...more.map(([type, body]) => chunk(type, body)),
    chunk("IDAT", data),
    chunk("IEND", new Uint8Array(0)),
  );
}
const rows = (count: number, bytes: number) => deflateSync(Buffer.alloc(count * (1 + bytes)));

test.each<[string, Uint8Array, string, RegExp]>([
  [
    "a small one that claims 60,000 × 60,000 and has ten rows",
    built([60_000, 60_000, 1, 0, 0, 0, 0], rows(10, 7500)),
    "remnant",
    /make up 0 %/,
  ],
  ["half its rows", built([100, 100, 8, 2, 0, 0, 0], rows(50, 300)), "damaged", /make up 50 %/],
  ["all but its last row", built([100, 100, 8, 2, 0, 0, 0], rows(99, 300)), "damaged", /make up 99 %/],
  ["picture data that are none", built([100, 100, 8, 2, 0, 0, 0], noise(3000)), "remnant", /do not unpack/],
  ["a palette that is not there", built([10, 10, 8, 3, 0, 0, 0], rows(10, 10)), "damaged", /palette/],
  ["a depth that its colours do not have", built([10, 10, 4, 2, 0, 0, 0], rows(10, 10)), "remnant", /colours/],
  ["no width", built([0, 10, 8, 2, 0, 0, 0], rows(10, 0)), "remnant", /no size/],
  ["a third interlace method", built([10, 10, 8, 2, 0, 0, 2], rows(10, 30)), "remnant", /way of packing/],
])("%s is not whole, though every check sum agrees", async (_, bytes, condition, because) => {
  const told = await measure(bytes);
  expect(told.condition).toBe(condition);
  expect(told.because).toMatch(because);
});

// The reference: pnmtopng of netpbm, which writes through libpng.
test("rows of every depth and colour type, interlaced too, are counted as libpng writes them", async () => {
  for (const [kind, maxval, samples] of [
    ["P5", 1, 1],
    ["P5", 3, 1],
    ["P5", 15, 1],
    ["P5", 255, 1],
    ["P5", 65_535, 1],
    ["P6", 255, 3],
    ["P6", 65_535, 3],
  ] as const)
    for (const [width, height] of [
      [37, 23],
      [1, 1],
      [5, 3],
      [300, 20],
    ])
      for (const options of [[], ["-interlace"]]) {
        const bytes = width * height * samples * (maxval > 255 ? 2 : 1);
        const input = joined(
          Buffer.from(`${kind} ${width} ${height} ${maxval}\n`),
          noise(bytes).map((byte) => (maxval > 255 ? byte : byte % (maxval + 1))),
        );
        const made = new Uint8Array(spawnSync("pnmtopng", [...options, "-"], { input, maxBuffer: 1 << 24 }).stdout);
        expect(made[28], "interlace method").toBe(options.length);
        expect(await measure(made), `${kind} ${maxval} ${width}x${height} ${options}`).toMatchObject({
          condition: "whole",
          length: made.length,
        });
      }
});
