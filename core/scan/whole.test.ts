import { spawnSync } from "node:child_process";
import { afterAll, expect, test } from "vitest";
import { FatCard } from "../../test/fat-card.ts";
import { joined, jpegOf, noise, pngOf } from "../../test/pictures.ts";
import { hashOf, scanned } from "../../test/scanning.ts";
import type { Find } from "../finds/find.ts";

/** What is called whole is whole: each of these once was, and was not. */
const cards: FatCard[] = [];
afterAll(() => {
  for (const card of cards) card.remove();
});
function freshCard(sectorsPerCluster = 4): FatCard {
  const card = new FatCard({ mebibytes: sectorsPerCluster * 34, sectorsPerCluster });
  cards.push(card);
  return card;
}
const named = (finds: Map<string, Find>, name: string): Find => {
  const found = [...finds.values()].find((find) => find.name === name);
  if (!found) throw new Error(`${name} was not found`);
  return found;
};

/** ISO/IEC 14496-12 §4.2: a clip of a brand, a movie box and media data. */
function clip(length: number): Uint8Array {
  const box = (type: string, body: Uint8Array) => {
    const bytes = Buffer.alloc(8 + body.length);
    bytes.writeUInt32BE(bytes.length, 0);
    bytes.write(type, 4, "latin1");
    bytes.set(body, 8);
    return bytes;
  };
  return joined(box("ftyp", Buffer.from("mp42\0\0\0\0mp42isom")), box("moov", noise(300, 2)), box("mdat", noise(length, 3)));
}
const vendorBox = (length: number) => {
  const bytes = Buffer.from(noise(length, 8));
  bytes.writeUInt32BE(length, 0);
  bytes.write("mkrx", 4, "latin1");
  return new Uint8Array(bytes);
};

test("a present file that is no picture, whatever its name says, is not a whole one", async () => {
  const card = freshCard()
    .put("/ten.jpg", noise(10, 3))
    .put("/cut.jpg", jpegOf(60, 40).slice(0, 10))
    .put("/words.png", new TextEncoder().encode("Nine Crows, second act. ".repeat(40)))
    .put("/real.jpg", jpegOf(300, 200, 2))
    .put("/a webp.jpg", joined(Buffer.from("RIFF\x64\0\0\0WEBPVP8 ", "latin1"), noise(92)));
  for (const depth of ["deep", "quick"] as const) {
    const { finds } = await scanned(card.source(), { depth });
    for (const name of ["ten.jpg", "words.png"])
      expect(named(finds, name), name).toMatchObject({
        state: "present",
        condition: "remnant",
        because: expect.stringContaining("begins in it, and nothing else that is known"),
      });
    if (depth === "deep") expect(named(finds, "cut.jpg").condition).toBe("remnant");
    expect(named(finds, "real.jpg").condition).toBe("whole");
    expect(named(finds, "a webp.jpg").condition).toBe("whole");
  }
});

test.each([
  ["a clip", (picture: Uint8Array) => joined(picture, clip(40_000)), "mp4", "video"],
  ["a second picture", (picture: Uint8Array) => joined(picture, jpegOf(320, 240, 9)), "jpeg", "photo"],
  ["a box of its maker's", (picture: Uint8Array) => joined(picture, vendorBox(5000)), "box", "other"],
  ["zeros and then a second picture", (picture: Uint8Array) => joined(picture, new Uint8Array(77), jpegOf(320, 240, 9)), "jpeg", "photo"],
])(
  "a picture with %s behind its end marker is one find to its true end, and what is behind is another inside it",
  async (_, make, format, kind) => {
    const picture = jpegOf(640, 480, 5);
    const file = make(picture);
    const card = freshCard()
      .put("/kept.jpg", file)
      .put("/gone.jpg", joined(file.slice(0, 2), noise(0), file.slice(2)))
      .erase("/gone.jpg");
    // Erased, so that nothing but its record and its bytes is left; the present one has the same bytes and would explain it.
    const other = make(jpegOf(600, 400, 6));
    card.put("/erased.jpg", other).erase("/erased.jpg");
    const { finds } = await scanned(card.source());
    const kept = named(finds, "kept.jpg");
    expect(kept).toMatchObject({ state: "present", condition: "whole", size: file.length, sha256: hashOf(file) });
    const inside = [...finds.values()].filter((find) => find.inside === kept.id);
    expect(inside.map((find) => [find.format, find.kind, find.state])).toEqual([[format, kind, "present"]]);
    const begins = file.length - inside[0].size;
    expect(begins).toBeGreaterThanOrEqual(picture.length);
    expect(inside[0].sha256).toBe(hashOf(file.slice(begins)));
    const erased = [...finds.values()].find((find) => find.sha256 === hashOf(other));
    expect(erased, "the erased one comes back to its true end").toMatchObject({ state: "erased", condition: "whole" });
    expect([...finds.values()].filter((find) => find.inside === erased?.id).map((find) => find.format)).toEqual([format]);
  },
);

test("without a record: a clip behind a picture belongs to it, a file that begins in the next cluster does not", async () => {
  const motion = joined(jpegOf(640, 480, 5), clip(30_000));
  const still = jpegOf(500, 300, 6);
  const padded = new Uint8Array(Math.ceil(still.length / 2048) * 2048);
  padded.set(still);
  const card = freshCard();
  const bytes = card.bytes();
  // Behind everything that the empty volume itself has: its content begins in the second half.
  const free = 70 * 1024 * 1024;
  bytes.set(motion, free);
  bytes.set(padded, free + 1024 * 1024);
  bytes.set(clip(20_000), free + 1024 * 1024 + padded.length);
  card.write(bytes);
  const { finds } = await scanned(card.source());
  const hashes = new Map([...finds.values()].map((find) => [find.sha256, find]));
  const found = hashes.get(hashOf(motion));
  expect(found).toMatchObject({ condition: "whole", format: "jpeg", inside: null });
  expect(hashes.get(hashOf(still))).toMatchObject({ condition: "whole", format: "jpeg", size: still.length });
  const clips = [...finds.values()].filter(({ format }) => format === "mp4");
  expect(clips.map(({ inside, sha256 }) => [inside, sha256]).sort()).toEqual(
    [
      [found?.id, hashOf(clip(30_000))],
      [null, hashOf(clip(20_000))],
    ].sort(),
  );
});

test("a clip behind a picture that breaks off makes the whole of it damaged, and says which part", async () => {
  const file = joined(jpegOf(640, 480, 5), clip(30_000).slice(0, 9000));
  const { finds } = await scanned(freshCard().put("/motion.jpg", file).source());
  expect(named(finds, "motion.jpg")).toMatchObject({ condition: "damaged", because: expect.stringContaining("MP4 is not whole") });
});

test("files whose chains run into each other are named as fsck.fat names them, and neither is whole", async () => {
  const picture = jpegOf(700, 500, 4);
  const card = freshCard(1)
    .put("/Lantern.jpg", picture)
    .put("/Moonhook.png", pngOf(120, 90))
    .put("/Crows.txt", noise(3000))
    .put("/alone.jpg", jpegOf(300, 200, 7));
  const before = await scanned(card.source());
  const bytes = card.bytes();
  const view = Buffer.from(bytes.buffer);
  const fatAt = view.readUInt16LE(14) * 512;
  const data = fatAt + 2 * view.readUInt32LE(36) * 512;
  const first = (name: string) => (named(before.finds, name).extents[0].offset - data) / 512 + 2;
  // The second cluster of the text goes on in the third of the first picture, in both tables; the other picture begins in its fifth.
  for (const table of [0, 1])
    view.writeUInt32LE(first("Lantern.jpg") + 2, fatAt + table * view.readUInt32LE(36) * 512 + (first("Crows.txt") + 1) * 4);
  const entry = view.indexOf("MOONHOOKPNG", 0, "latin1");
  view.writeUInt16LE(first("Lantern.jpg") + 4, entry + 26);
  view.writeUInt16LE((first("Lantern.jpg") + 4) >> 16, entry + 20);
  card.write(bytes);
  const checker = spawnSync("fsck.fat", ["-n", card.image], {
    encoding: "utf8",
    env: { ...process.env, PATH: `${process.env.PATH}:/usr/sbin` },
  }).stdout;
  expect(checker).toMatch(/share clusters/);
  const { finds, troubles } = await scanned(card.source());
  for (const name of ["Lantern.jpg", "Moonhook.png", "Crows.txt"]) {
    expect(named(finds, name), name).toMatchObject({ state: "present", condition: "damaged" });
    expect(named(finds, name).because, name).toMatch(/chain.* runs into/);
  }
  expect(named(finds, "alone.jpg").condition).toBe("whole");
  const told = troubles.filter(({ what }) => what.includes("cross-linked")).map(({ what }) => what);
  expect(told.some((what) => what.includes("/Crows.txt and /Lantern.jpg"))).toBe(true);
});
