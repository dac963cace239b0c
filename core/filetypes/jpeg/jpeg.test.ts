import { describe, expect, test } from "vitest";
import { seeded } from "../../../demo/random.ts";
import { cjpegOf, djpegComplaints, joined, jpegOf, noise, patched } from "../../../test/pictures.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { jpeg } from "./jpeg.ts";

const measure = (bytes: Uint8Array) => jpeg.measure(memorySource(bytes, "picture"));

/** Every way the Independent JPEG Group's cjpeg writes a Huffman-coded picture that a camera may also choose. */
const SAMPLES: [string, Uint8Array][] = [
  ["baseline by jpeg-js, nothing subsampled", jpegOf(130, 97)],
  ["baseline, 4:2:0", cjpegOf(130, 97, ["-baseline", "-sample", "2x2"])],
  ["baseline, 4:2:2, best code tables", cjpegOf(131, 90, ["-optimize", "-sample", "2x1"])],
  ["baseline, grey", cjpegOf(75, 64, ["-grayscale"])],
  ["baseline, restart marker every block row", cjpegOf(128, 128, ["-restart", "1"])],
  ["baseline, restart marker every 3 units", cjpegOf(128, 96, ["-restart", "3B"])],
  ["progressive", cjpegOf(130, 97, ["-progressive"])],
  ["progressive with restart markers", cjpegOf(128, 96, ["-progressive", "-restart", "2"])],
  ["very fine quantisation", cjpegOf(96, 96, ["-quality", "100"])],
];

/** Byte of the first entropy-coded byte: behind the header of the first scan (ITU-T T.81 B.2.3). */
function codedFrom(bytes: Uint8Array): number {
  for (let at = 2; at < bytes.length; ) {
    const length = (bytes[at + 2] << 8) | bytes[at + 3];
    if (bytes[at + 1] === 0xda) return at + 2 + length;
    at += 2 + length;
  }
  throw new Error("no scan");
}

describe.each(SAMPLES)("%s", (_, good) => {
  test("is whole to its end marker, and ends there whatever follows", async () => {
    expect(djpegComplaints(good)).toBe("");
    for (const tail of [new Uint8Array(0), noise(3000), new Uint8Array(700), good])
      expect(await measure(joined(good, tail))).toMatchObject({
        length: good.length,
        condition: "whole",
        because: "walked through its coded picture to its end marker",
        shown: 1,
      });
  });

  test("cut anywhere: not whole, never a throw, and never longer than what is there", async () => {
    let shown = 0;
    for (let length = 4; length < good.length - 1; length += 41) {
      const told = await measure(good.slice(0, length));
      expect(told.condition, `${length} of ${good.length}`).not.toBe("whole");
      expect(told.length).toBeLessThanOrEqual(length);
      expect(told.shown ?? 0).toBeGreaterThanOrEqual(shown - 1e-9);
      shown = told.shown ?? 0;
    }
  });

  test("other bytes over its middle: damaged, and the part that shows is the part before them", async () => {
    const from = codedFrom(good);
    const at = from + Math.floor((good.length - from) / 2);
    for (const [name, over] of [
      ["noise", noise(512, 5)],
      ["zeros", new Uint8Array(512)],
      ["text", new TextEncoder().encode("Nine Crows, second act. ".repeat(22))],
    ] as const) {
      const told = await measure(patched(good, at, over.slice(0, Math.min(over.length, good.length - at - 2))));
      expect(told.condition, name).toMatch(/damaged|remnant/);
    }
  });
});

test.each([
  ["baseline", ["-baseline"]],
  ["progressive", ["-progressive"]],
])("%s: a restart marker of another number is a break (ITU-T T.81 B.2.1: they count from 0 to 7 in turn)", async (_, kind) => {
  const good = cjpegOf(128, 128, [...kind, "-restart", "1"]);
  const markers = [...good.keys()].filter((at) => good[at] === 0xff && good[at + 1] >= 0xd0 && good[at + 1] <= 0xd7);
  expect(markers.length).toBeGreaterThan(6);
  for (const at of [markers[0], markers[5]]) {
    const told = await measure(patched(good, at + 1, [0xd0 + ((good[at + 1] + 3) % 8)]));
    expect(told).toMatchObject({ because: expect.stringContaining("a restart marker is missing") });
    expect(told.condition).not.toBe("whole");
  }
});

test("a run of empty blocks that reaches over the end of its scan is a break (T.81 G.1.2.2)", async () => {
  const segment = (marker: number, ...body: number[]) => [0xff, marker, 0, body.length + 2, ...body];
  /** One grey block: its DC is 0 in a scan of one bit, its AC band in a scan of these bits. */
  const picture = (band: number) =>
    Uint8Array.from([
      ...[0xff, 0xd8],
      ...segment(0xdb, 0, ...new Array(64).fill(1)),
      ...segment(0xc2, 8, 0, 8, 0, 8, 1, 1, 0x11, 0),
      // DC: the code 0 for a difference of 0. AC: 0 ends one block's band (EOB0), 10 and a bit those of two or three (EOB1).
      ...segment(0xc4, 0x00, 1, ...new Array(15).fill(0), 0x00),
      ...segment(0xc4, 0x10, 1, 1, ...new Array(14).fill(0), 0x00, 0x10),
      ...segment(0xda, 1, 1, 0x00, 0, 0, 0),
      0x7f,
      ...segment(0xda, 1, 1, 0x00, 1, 63, 0),
      band,
      ...[0xff, 0xd9],
    ]);
  const good = picture(0b0111_1111);
  expect(djpegComplaints(good)).toBe("");
  expect((await measure(good)).condition).toBe("whole");
  expect((await measure(picture(0b1001_1111))).condition).not.toBe("whole");
});

test("where djpeg complains, a picture is never called whole (200 single broken bytes, seed 7)", async () => {
  const good = cjpegOf(160, 120, ["-sample", "2x2"]);
  const from = codedFrom(good);
  const random = seeded(7);
  let complained = 0;
  for (let trial = 0; trial < 200; trial++) {
    const at = from + Math.floor(random() * (good.length - from - 2));
    const broken = patched(good, at, [Math.floor(random() * 256)]);
    if (djpegComplaints(broken) === "") continue;
    complained++;
    expect((await measure(broken)).condition, `byte ${at}`).not.toBe("whole");
  }
  expect(complained).toBeGreaterThan(20);
});

test("a whole byte of fill bits before the end marker is no foreign content (jpeg-js writes one where the bits end on a byte)", async () => {
  let filled = 0;
  for (let seed = 1; seed <= 24; seed++) {
    const good = jpegOf(64, 48, seed);
    if (good[good.length - 4] === 0xff && good[good.length - 3] === 0) filled++;
    expect(await measure(joined(good, noise(700)))).toMatchObject({ condition: "whole", length: good.length });
    const foreign = joined(good.slice(0, -2), Uint8Array.of(0x12, 0x34), good.slice(-2));
    expect((await measure(foreign)).condition).not.toBe("whole");
  }
  expect(filled).toBeGreaterThan(0);
});

test("the end marker inside a camera preview does not end the picture that holds it", async () => {
  const preview = jpegOf(32, 24, 9);
  const outer = jpegOf(200, 150, 3);
  const segment = joined(Uint8Array.of(0xff, 0xe2, (preview.length + 2) >> 8, (preview.length + 2) & 255), preview);
  const whole = joined(outer.slice(0, 2), segment, outer.slice(2));
  expect(await measure(whole)).toMatchObject({ length: whole.length, condition: "whole", width: 200, height: 150 });
});

test.each([
  ["an end marker before any picture", [0xff, 0xd8, 0xff, 0xd9]],
  ["a segment of length 0", [0xff, 0xd8, 0xff, 0xe0, 0, 0, 1, 2]],
  ["a code table with more codes than bits", [0xff, 0xd8, 0xff, 0xc4, 0, 20, 0, 255, ...new Array(18).fill(255)]],
  ["fill bytes without end", [0xff, 0xd8, ...new Array(9000).fill(0xff)]],
])("%s is a remnant, not a throw", async (_, bytes) => {
  expect((await measure(Uint8Array.from(bytes))).condition).toBe("remnant");
});

test("arithmetic coding is not walked bit by bit: it is said so, and never called whole", async () => {
  const good = cjpegOf(64, 64, ["-arithmetic"]);
  if (good.length === 0) return; // this cjpeg was built without it
  expect(await measure(joined(good, noise(100)))).toMatchObject({
    length: good.length,
    condition: "damaged",
    because: "ends properly, but is coded in a way that cannot be checked",
  });
});
