import { afterAll, expect, test } from "vitest";
import { FatCard } from "../../test/fat-card.ts";
import { cjpegOf, jpegOf, noise, patched, pngOf } from "../../test/pictures.ts";
import { scanned } from "../../test/scanning.ts";
import { faultySource } from "../bytes/faulty-source.ts";
import { memorySource } from "../bytes/memory-source.ts";

/** Pictures that nothing names any more, with a dead sector in their middle. */
const card = new FatCard().put("/kept.txt", noise(5000));
const empty = card.bytes();
afterAll(() => card.remove());
/** Free space of the card. */
const AT = await (async () => {
  const { finds } = await scanned(memorySource(empty, "card"));
  const [kept] = [...finds.values()].filter(({ name }) => name === "kept.txt");
  return kept.extents[0].offset + 64 * 512;
})();

const withDead = (content: Uint8Array, ...sectors: number[]) =>
  faultySource(
    memorySource(patched(empty, AT, content), "card"),
    sectors.map((sector) => ({ start: AT + sector * 512, length: 512, behaviour: "dead" })),
    async () => {},
  );
const carved = async (content: Uint8Array, ...sectors: number[]) => {
  const { finds } = await scanned(withDead(content, ...sectors), { hashed: false });
  return finds.get(`b${AT.toString(16)}`);
};

test.each([
  ["a JPEG", jpegOf(640, 480, 5)],
  ["a JPEG with restart markers", cjpegOf(640, 480, ["-restart", "4"], 6)],
  ["a progressive JPEG", cjpegOf(640, 480, ["-progressive"], 7)],
  ["a PNG of several chunks", pngOf(400, 300, 8)],
])("%s goes on behind dead sectors to its own end, and is damaged", async (_, picture) => {
  const middle = Math.floor(picture.length / 1024);
  for (const sectors of [[middle], [middle - 9, middle, middle + 7]]) {
    const find = await carved(picture, ...sectors);
    expect(find).toMatchObject({
      condition: expect.stringMatching(/damaged|remnant/),
      size: picture.length,
      because: `${sectors.length * 512} of its bytes cannot be read from the medium`,
    });
    expect(find?.extents).toEqual([{ offset: AT, length: picture.length }]);
  }
});

test("what stands behind a dead sector is not taken for it where it is something else", async () => {
  const picture = jpegOf(640, 480, 5);
  const middle = Math.floor(picture.length / 1024);
  const other = patched(picture, (middle + 1) * 512, noise(picture.length).subarray((middle + 1) * 512));
  const find = await carved(other, middle);
  expect(find?.size).toBeLessThanOrEqual((middle + 4) * 512);
});
