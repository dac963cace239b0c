import fc from "fast-check";
import { expect, test } from "vitest";
import { cjpegOf, jpegOf, patched, pngOf } from "../../test/pictures.ts";
import { photoOf } from "./small-picture.ts";

const bytesIn = (address: string | undefined) => new Uint8Array(Buffer.from(address?.split(",")[1] ?? "", "base64"));

test("pictures of people by the tools' own JPEG and PNG come back byte for byte (RFC 2397, RFC 4648 §4)", () => {
  for (const [picture, type] of [
    [jpegOf(96, 96), "image/jpeg"],
    [cjpegOf(96, 64, ["-progressive"]), "image/jpeg"],
    [pngOf(40, 30), "image/png"],
  ] as const) {
    const address = photoOf(picture);
    expect(address?.startsWith(`data:${type};base64,`)).toBe(true);
    expect(bytesIn(address)).toEqual(picture);
  }
});

test("what would be a large picture once it is unpacked is none, however few bytes it has; nor is what has many, is cut, or something else", () => {
  const png = pngOf(40, 30);
  const wide = new Uint8Array(4);
  new DataView(wide.buffer).setUint32(0, 60_000);
  expect(photoOf(patched(png, 16, wide))).toBeUndefined();
  expect(photoOf(patched(png, 20, [0, 0, 0, 0]))).toBeUndefined();
  const jpeg = jpegOf(96, 96);
  // The frame header (ITU-T T.81, B.2.2): FF C0, its length, precision, lines.
  const frame = jpeg.findIndex((byte, at) => byte === 0xff && jpeg[at + 1] === 0xc0);
  expect(photoOf(patched(jpeg, frame + 5, [0xff, 0xff]))).toBeUndefined();
  expect(photoOf(jpeg.subarray(0, frame + 6))).toBeUndefined();
  expect(photoOf(pngOf(300, 300, 1))).toBeUndefined();
  expect(photoOf(new TextEncoder().encode("<svg onload=alert(1)>"))).toBeUndefined();
  expect(photoOf(new Uint8Array())).toBeUndefined();
});

test("no bytes make it throw or go on without end", () => {
  const good = jpegOf(32, 32);
  fc.assert(
    fc.property(fc.nat(good.length - 1), fc.uint8Array({ minLength: 1, maxLength: 40 }), (at, bytes) => {
      photoOf(patched(good, Math.min(at, good.length - bytes.length), bytes));
      photoOf(Uint8Array.of(0xff, 0xd8, ...bytes));
      photoOf(bytes);
    }),
    { numRuns: 500 },
  );
});
