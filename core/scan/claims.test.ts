import { expect, test } from "vitest";
import { FatCard } from "../../test/fat-card.ts";
import { aFind } from "../../test/finds.ts";
import { jpegOf, noise } from "../../test/pictures.ts";
import { hashOf, scanned } from "../../test/scanning.ts";
import { Claims } from "./claims.ts";

const extents = [{ offset: 4096, length: 8192 }];

test.each([
  ["whole", 8192],
  ["damaged", 0],
  ["remnant", 0],
] as const)("the place of an erased find that is %s is proven to be its own in %i bytes", (condition, bytes) => {
  const claims = new Claims();
  claims.add(aFind({ id: "a", condition, extents }));
  expect(claims.takenOf(extents)).toEqual({ bytes, of: 8192, head: bytes > 0 });
});

test("what was written into an erased picture later, and erased too, is found although the picture's entry still claims its place", async () => {
  const card = new FatCard({ mebibytes: 136, sectorsPerCluster: 4 });
  try {
    const [older, later] = [jpegOf(2400, 1800, 1), jpegOf(900, 700, 2).slice()];
    card.put("/older.jpg", older);
    const bytes = new Uint8Array(card.put("/behind.bin", noise(5000)).erase("/older.jpg").bytes());
    const at = Buffer.from(bytes).indexOf(older.subarray(0, 64));
    const cluster = 2048;
    const inside = at + Math.floor(older.length / 2 / cluster) * cluster;
    bytes.set(later, inside);
    const { finds } = await scanned(card.write(bytes).source());
    const found = [...finds.values()];
    expect(found.find(({ sha256 }) => sha256 === hashOf(later))).toMatchObject({ state: "erased", condition: "whole" });
    expect(found.find(({ extents }) => extents[0]?.offset === at)).toMatchObject({ state: "erased", condition: "damaged" });
  } finally {
    card.remove();
  }
});
