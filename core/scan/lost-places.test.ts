import { afterAll, expect, test } from "vitest";
import { FatCard } from "../../test/fat-card.ts";
import { aFind } from "../../test/finds.ts";
import { jpegOf, noise } from "../../test/pictures.ts";
import { scanned } from "../../test/scanning.ts";
import { faultySource } from "../bytes/faulty-source.ts";
import { holedSource } from "../bytes/holed-source.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { RangeSet } from "../bytes/ranges.ts";
import { LostPlaces } from "./lost-places.ts";

/** Nothing that was not read is whole: in the browser, which hashes nothing in a scan, as in the terminal, which does. */
const LETTERS = 40_000;
const content = noise(LETTERS, 5);
const maker = new FatCard()
  .makeFolder("/DCIM")
  .put("/DCIM/Moonhook.mp3", content)
  .put("/DCIM/kept.jpg", jpegOf(500, 400, 3))
  .put("/DCIM/sound.jpg", jpegOf(500, 400, 4));
const card = maker.bytes();
afterAll(() => maker.remove());

const before = await scanned(memorySource(card, "card"));
const named = (finds: Map<string, ReturnType<typeof aFind>>, name: string) => {
  const found = [...finds.values()].find((find) => find.name === name);
  if (!found) throw new Error(`${name} was not found`);
  return found;
};
const placeOf = (name: string) => named(before.finds, name).extents[0].offset;
const dead = () =>
  faultySource(
    memorySource(card, "card"),
    [
      { start: placeOf("Moonhook.mp3") + 20_480, length: 1, behaviour: "dead" },
      { start: placeOf("kept.jpg") + 15_360, length: 1024, behaviour: "dead" },
    ],
    async () => {},
  );
const zeroed = () => {
  const bytes = card.slice();
  bytes.fill(0, placeOf("Moonhook.mp3") + 20_480, placeOf("Moonhook.mp3") + 20_992);
  bytes.fill(0, placeOf("kept.jpg") + 15_360, placeOf("kept.jpg") + 16_384);
  return holedSource(memorySource(bytes, "a copy"), [
    { offset: placeOf("Moonhook.mp3") + 20_480, length: 512 },
    { offset: placeOf("kept.jpg") + 15_360, length: 1024 },
  ]);
};

test.each([
  ["a deep scan that hashes (terminal)", () => scanned(dead())],
  ["a deep scan that does not (browser)", () => scanned(dead(), { hashed: false })],
  ["a copy with holes, deep", () => scanned(zeroed(), { hashed: false })],
  ["a copy with holes, quick", () => scanned(zeroed(), { hashed: false, depth: "quick" })],
])("%s: present files with bytes that were never read are damaged, and say how many", async (_, scan) => {
  const { finds, last } = await scan();
  expect(named(finds, "Moonhook.mp3")).toMatchObject({
    state: "present",
    condition: "damaged",
    because: "512 of its bytes cannot be read from the medium",
  });
  expect(named(finds, "kept.jpg")).toMatchObject({
    condition: "damaged",
    because: "1024 of its bytes cannot be read from the medium",
  });
  expect(named(finds, "sound.jpg").condition).toBe("whole");
  expect(last.unreadable.reduce((sum, { length }) => sum + length, 0)).toBe(1536);
});

test("a copy that broke off: what lies behind its mark was never read", async () => {
  const mark = placeOf("sound.jpg") + 4096;
  const { finds } = await scanned(holedSource(memorySource(card.slice(0, mark), "a copy"), [], card.length), { hashed: false });
  const { size } = named(finds, "sound.jpg");
  expect(named(finds, "sound.jpg")).toMatchObject({
    condition: "damaged",
    because: `${size - 4096} of its bytes cannot be read from the medium`,
  });
  expect(named(finds, "kept.jpg").condition).toBe("whole");
});

test("what is seen to be unreadable later is told of the finds that were told before, and only of them", () => {
  const places = new LostPlaces();
  places.note(aFind({ id: "a", extents: [{ offset: 0, length: 4096 }] }));
  places.note(aFind({ id: "b", condition: "remnant", extents: [{ offset: 8192, length: 512 }] }));
  places.note(
    aFind({
      id: "c",
      extents: [
        { offset: 16_384, length: 512 },
        { offset: -1, length: 512 },
        { offset: 20_480, length: 512 },
      ],
    }),
  );
  for (let number = 0; number < 3000; number++)
    places.note(aFind({ id: `many${number}`, extents: [{ offset: 65_536 + number * 512, length: 512 }] }));
  const lost = new RangeSet();
  expect(places.patches(lost)).toEqual([]);
  for (const offset of [1024, 8192, 16_384, 65_536 + 2999 * 512]) lost.add(offset, 512);
  expect(places.patches(lost)).toEqual([
    { id: "a", evidence: [], condition: "damaged", because: "512 of its bytes cannot be read from the medium" },
    { id: "b", evidence: [], condition: "remnant", because: "512 of its bytes cannot be read from the medium" },
    { id: "c", evidence: [], condition: "damaged", because: "512 of its bytes cannot be read from the medium" },
    { id: "many2999", evidence: [], condition: "damaged", because: "512 of its bytes cannot be read from the medium" },
  ]);
});
