import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, expect, test } from "vitest";
import { run } from "../../test/fat-card.ts";
import { jpegOf, patched } from "../../test/pictures.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { describeContent } from "./describe.ts";

const folder = mkdtempSync(join(tmpdir(), "jubar-exif-"));
afterAll(() => rmSync(folder, { recursive: true }));

/** A picture with camera data written by exiftool. */
function picture(...tags: string[]): Uint8Array {
  const path = join(folder, "picture.jpg");
  writeFileSync(path, jpegOf(64, 48));
  if (tags.length > 0) run("exiftool", "-q", "-overwrite_original", ...tags, path);
  return new Uint8Array(readFileSync(path));
}
const told = (bytes: Uint8Array) => describeContent(memorySource(bytes, "picture"));

test("what exiftool wrote is what is read: time, camera, place, original width, preview", async () => {
  const preview = join(folder, "preview.jpg");
  writeFileSync(preview, jpegOf(32, 24, 5));
  const bytes = picture(
    "-DateTimeOriginal=2026:05:03 18:20:41",
    "-Make=Corvane",
    "-Model=Siskin 3",
    "-GPSLatitude=47.25",
    "-GPSLatitudeRef=N",
    "-GPSLongitude=16.5",
    "-GPSLongitudeRef=W",
    "-ExifImageWidth=4000",
    `-ThumbnailImage<=${preview}`,
  );
  const about = await told(bytes);
  expect(about).toMatchObject({ taken: Date.UTC(2026, 4, 3, 18, 20, 41), camera: "Corvane Siskin 3", originalWidth: 4000 });
  expect(about.place?.latitude).toBeCloseTo(47.25, 5);
  expect(about.place?.longitude).toBeCloseTo(-16.5, 5);
  const { offset, length } = about.thumbnail ?? { offset: 0, length: 0 };
  expect(Buffer.from(bytes.slice(offset, offset + length)).equals(readFileSync(preview))).toBe(true);
});

test("a picture without camera data says nothing", async () => {
  expect(await told(picture())).toEqual({ taken: null, camera: null, place: null, originalWidth: null, thumbnail: null });
});

test("a day that no calendar has is no day", async () => {
  const bytes = picture("-Model=Siskin 3", "-DateTimeOriginal=2026:05:03 18:20:41");
  const at = Buffer.from(bytes).indexOf("2026:05:03");
  expect(await told(patched(bytes, at, Buffer.from("2026:02:31")))).toMatchObject({ taken: null, camera: "Siskin 3" });
});

test("broken camera data never throws: every byte of it changed in turn", async () => {
  const bytes = picture("-DateTimeOriginal=2026:05:03 18:20:41", "-Model=Siskin 3", "-GPSLatitude=47", "-GPSLatitudeRef=N");
  const from = Buffer.from(bytes).indexOf("Exif");
  for (let at = from; at < from + 300; at++) {
    const about = await told(patched(bytes, at, [bytes[at] ^ 0xff]));
    if (about.place) expect(Math.abs(about.place.latitude)).toBeLessThanOrEqual(90);
  }
});
