import { expect, test } from "vitest";
import { FatCard } from "../../test/fat-card.ts";
import { joined, jpegOf, noise, patched, pngOf } from "../../test/pictures.ts";
import { hashOf, scanned } from "../../test/scanning.ts";
import { memorySource } from "../bytes/memory-source.ts";

/** Heads of 3 KB that claim the rest of the medium, as broken-off copies leave them: what they claim costs nothing, and is not believed. */
const ascii = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const le = (value: number) => Uint8Array.from({ length: 4 }, (_, index) => Math.floor(value / 256 ** index) % 256);
const be = (value: number) => le(value).reverse();
const MIB = 1024 * 1024;
const CLAIM = 140 * MIB;
const STUB = 3000;
const body = (head: Uint8Array, seed: number) => joined(head, noise(STUB - head.length, seed));
const STUBS: readonly (readonly [string, Uint8Array])[] = [
  ["avi", body(joined(ascii("RIFF"), le(CLAIM), ascii("AVI LIST")), 1)],
  ["wav", body(joined(ascii("RIFF"), le(0xffff_fff0), ascii("WAVEfmt ")), 2)],
  ["bmp", body(joined(ascii("BM"), le(CLAIM), le(0), le(54), le(40)), 3)],
  ["sqlite", body(joined(ascii("SQLite format 3\0"), Uint8Array.of(16, 0, 1, 1, 0, 64, 32, 32), be(1), be(CLAIM / 4096)), 4)],
  [
    "tiff",
    body(
      joined(ascii("II*\0"), le(8), Uint8Array.of(2, 0, 17, 1, 4, 0), le(1), le(CLAIM), Uint8Array.of(23, 1, 4, 0), le(1), le(4096), le(0)),
      5,
    ),
  ],
  [
    "webm",
    body(
      joined(
        be(0x1a45dfa3),
        Uint8Array.of(0x87, 0x42, 0x82, 0x84),
        ascii("webm"),
        be(0x18538067),
        Uint8Array.of(1, 255, 255, 255, 255, 255, 255, 255),
      ),
      6,
    ),
  ],
  ["mp4", body(joined(be(20), ascii("ftypisom"), be(0), ascii("isom"), be(CLAIM), ascii("mdat")), 7)],
  ["pdf", body(ascii("%PDF-1.4\n1 0 obj\n<<>>\nendobj\n"), 8)],
  [
    "zip",
    body(
      joined(
        ascii("PK\x03\x04"),
        Uint8Array.of(20, 0, 0, 0, 0, 0),
        new Uint8Array(8),
        le(CLAIM),
        le(CLAIM),
        Uint8Array.of(5, 0, 0, 0),
        ascii("a.bin"),
      ),
      9,
    ),
  ],
  ["png", patched(pngOf(200, 160).slice(0, STUB), 33, be(0x7000_0000))],
];

test("ten of them on an empty card: next to nothing is read for them, and none is longer than what was written", async () => {
  const card = new FatCard({ mebibytes: 160, sectorsPerCluster: 4 });
  const empty = card.bytes();
  card.remove();
  const stubbed = empty.slice();
  STUBS.forEach(([, bytes], index) => {
    stubbed.set(bytes, (12 + index * 3) * MIB);
  });
  const without = await scanned(memorySource(empty, "card"));
  const { finds, last } = await scanned(memorySource(stubbed, "card"));
  expect(last.bytesRead / without.last.bytesRead).toBeLessThan(1.05);
  const found = [...finds.values()];
  expect(found.filter(({ inside }) => inside === null).length).toBe(STUBS.length);
  for (const { format, size, condition } of found) {
    expect(size, format).toBeLessThan(64 * 1024);
    expect(condition, format).not.toBe("whole");
  }
});

test("in space that is full of old data each claim is hashed at most once, however many heads claim the same", async () => {
  const card = new FatCard({ mebibytes: 160, sectorsPerCluster: 4 });
  const full = card.bytes();
  card.remove();
  const old = noise(MIB, 20);
  for (let at = 12; at < 158; at++) full.set(old, at * MIB);
  const stubbed = full.slice();
  const avi = STUBS[0][1];
  for (let index = 0; index < 8; index++) stubbed.set(patched(avi, 4, le(100 * MIB)), (14 + index) * MIB);
  const without = await scanned(memorySource(full, "card"));
  const { finds, last } = await scanned(memorySource(stubbed, "card"));
  expect([...finds.values()].filter(({ format }) => format === "avi")).toHaveLength(8);
  expect(last.bytesRead - without.last.bytesRead).toBeLessThan(2.2 * 100 * MIB);
});

test("what really goes on to its end is believed, silence and black in it too", async () => {
  const card = new FatCard({ mebibytes: 160, sectorsPerCluster: 4 });
  const bytes = card.bytes();
  card.remove();
  // A recording with silence in its middle: a quarter of it zeros.
  const sound = joined(ascii("RIFF"), le(4 * MIB + 36 - 8 + 8), ascii("WAVEfmt "), noise(24, 3), noise(4 * MIB, 4));
  const recording = joined(sound.slice(0, 4), le(sound.length - 8), sound.slice(8));
  recording.fill(0, 2 * MIB, 3 * MIB);
  const picture = jpegOf(600, 400, 5);
  bytes.set(recording, 20 * MIB);
  bytes.set(picture, 40 * MIB);
  const { finds } = await scanned(memorySource(bytes, "card"));
  expect([...finds.values()].map(({ sha256 }) => sha256).sort()).toEqual([hashOf(recording), hashOf(picture)].sort());
});
