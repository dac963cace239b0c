import { expect, test } from "vitest";
import { readDots, readEntries } from "./directory.ts";
import { isShortName, longName, shortName, shortNameChecksum } from "./names.ts";

/** Entries as the FAT document lays them down, made by hand: what tools never write is what cards come with. */
const ascii = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));
const SHORT = ascii("LANTER~1JPG");

function longEntries(
  name: string,
  { sum = shortNameChecksum(SHORT), erased = false, orders }: { sum?: number; erased?: boolean; orders?: number[] } = {},
) {
  const units = Array.from({ length: name.length }, (_, index) => name.charCodeAt(index));
  if (units.length % 13 !== 0) units.push(0);
  while (units.length % 13 !== 0) units.push(0xffff);
  const count = units.length / 13;
  const entries: Buffer[] = [];
  for (let number = count; number >= 1; number--) {
    const entry = Buffer.alloc(32);
    entry[0] = erased ? 0xe5 : (orders?.[number - 1] ?? number | (number === count ? 0x40 : 0));
    entry[11] = 0x0f;
    entry[13] = sum;
    const part = units.slice((number - 1) * 13, number * 13);
    part.forEach((unit, index) => {
      entry.writeUInt16LE(unit, index < 5 ? 1 + index * 2 : index < 11 ? 14 + (index - 5) * 2 : 28 + (index - 11) * 2);
    });
    entries.push(entry);
  }
  return entries;
}
function shortEntry(name = SHORT, { erased = false, size = 1000, cluster = 5, attributes = 0x20, date = 0x5ca3 } = {}) {
  const entry = Buffer.alloc(32);
  entry.set(name, 0);
  if (erased) entry[0] = 0xe5;
  entry[11] = attributes;
  entry.writeUInt16LE(0x9000, 22);
  entry.writeUInt16LE(date, 24);
  entry.writeUInt16LE(cluster, 26);
  entry.writeUInt32LE(size, 28);
  return entry;
}
const folder = (...entries: Buffer[]) => new Uint8Array(Buffer.concat([...entries, Buffer.alloc(64)]));
const namesIn = (...entries: Buffer[]) => readEntries(folder(...entries)).map(({ name, lost }) => [name, ...lost]);

test.each(["Lantern at dusk.jpg", "exactly13.jpg", "Nine Crows, second act, the whole of it.jpg", "🎭 Maske.jpg", "x".repeat(255)])(
  "a long name is read whole, present and erased: %s",
  (name) => {
    expect(namesIn(...longEntries(name), shortEntry())).toEqual([[name]]);
    const erased = namesIn(...longEntries(name, { erased: true }), shortEntry(SHORT, { erased: true }));
    // Without an ending of its own an erased name that fills its last entry cannot be told from one that was cut.
    expect(erased[0][0]).toBe(name.length % 13 === 0 && !name.endsWith(".jpg") ? "LANTER~1.JPG" : name);
  },
);

test.each([
  ["the sum is another one", longEntries("Lantern at dusk.jpg", { sum: 0x11 })],
  ["an order is missing", longEntries("Lantern at dusk.jpg", { orders: [2, 0x42] })],
  ["a control character stands in it", longEntries("Lantern\u0007at.jpg")],
])("a long name is not believed where %s: the short one stands", (_, long) => {
  expect(namesIn(...long, shortEntry())).toEqual([["LANTER~1.JPG"]]);
});

test("an erased short entry alone shows its lost letter as lost; any long entry of it gives the letter back", () => {
  expect(namesIn(shortEntry(SHORT, { erased: true }))).toEqual([
    ["?ANTER~1.JPG", "the first letter of its name was overwritten by the deletion"],
  ]);
  const [, lastPart] = longEntries("Lantern at dusk.jpg", { erased: true });
  const [cut] = longEntries("Lantern at d.jpg......", { erased: true }).slice(1);
  expect(lastPart).toBeDefined();
  expect(namesIn(cut, shortEntry(SHORT, { erased: true }))).toEqual([
    ["LANTER~1.JPG", expect.stringMatching(/^of its long name only the beginning is left/)],
  ]);
});

test("long entries of another file are left alone", () => {
  expect(longName(folder(...longEntries("Moonhook.jpg")), 32, ascii("CROW    JPG"), false)).toBeNull();
});

test.each([
  ["SISK0001JPG", 0, "SISK0001.JPG"],
  ["README     ", 0, "README"],
  ["LOWER   TXT", 0x18, "lower.txt"],
  ["MIXED   TXT", 0x08, "mixed.TXT"],
  ["\u0005BCDE   TXT", 0, "σBCDE.TXT"],
  ["\u0099BUNG   TXT", 0, "ÖBUNG.TXT"],
])("short name %j with case bits %d is %s", (raw, bits, name) => {
  expect(shortName(ascii(raw), bits, false)).toBe(name);
});

test.each(["A.B     TXT", "lower   TXT", " LEADING TX", "STAR*   TXT", "\u0001BC     TXT"])("%j is no short name", (raw) => {
  expect(isShortName(ascii(raw), false)).toBe(false);
});

test("after the end mark erased leftovers are read, present ones are not; nonsense is passed over", () => {
  const end = Buffer.alloc(32);
  const entries = readEntries(
    folder(
      shortEntry(ascii("FIRST   JPG")),
      end,
      shortEntry(ascii("GHOST   JPG")),
      shortEntry(ascii("LEFT    JPG"), { erased: true }),
      shortEntry(ascii("BADDATE JPG"), { erased: true, date: 0xffff }),
      shortEntry(ascii("LABEL      "), { attributes: 0x08 }),
    ),
  );
  expect(entries.map(({ name, erased }) => [name, erased])).toEqual([
    ["FIRST.JPG", false],
    ["?EFT.JPG", true],
  ]);
});

test("a folder's own entries tell its place and its parent's, and nothing else passes for them", () => {
  const dot = shortEntry(ascii(".          "), { attributes: 0x10, size: 0, cluster: 9 });
  const dots = shortEntry(ascii("..         "), { attributes: 0x10, size: 0, cluster: 4 });
  expect(readDots(folder(dot, dots))).toEqual({ self: 9, parent: 4 });
  expect(readDots(folder(dots, dot))).toBeNull();
  expect(readDots(folder(shortEntry(), dots))).toBeNull();
  expect(readDots(new Uint8Array(40))).toBeNull();
});
