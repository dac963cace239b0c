import { spawnSync } from "node:child_process";
import { afterAll, expect, test } from "vitest";
import { FatCard } from "../../../test/fat-card.ts";
import { jpegOf, noise } from "../../../test/pictures.ts";
import { scanned } from "../../../test/scanning.ts";
import { listed } from "../../../test/workshop.ts";
import { memorySource } from "../../bytes/memory-source.ts";

/** Entries that stand are present, however odd: mdir of mtools lists them all, and fsck.fat takes none of them away. */
const card = new FatCard();
afterAll(() => card.remove());
type Oddity = (bytes: Buffer, at: number) => void;
const ODD: readonly (readonly [string, Oddity])[] = [
  ["DATE0000.JPG", (bytes, at) => bytes.writeUInt16LE(0, at + 24)],
  ["DATEFFFF.JPG", (bytes, at) => bytes.writeUInt16LE(0xffff, at + 24)],
  ["MONTH13.JPG", (bytes, at) => bytes.writeUInt16LE((46 << 9) | (13 << 5) | 3, at + 24)],
  ["SIXTY.JPG", (bytes, at) => bytes.writeUInt16LE((18 << 11) | (20 << 5) | 30, at + 22)],
  ["HOUR25.JPG", (bytes, at) => bytes.writeUInt16LE((25 << 11) | (20 << 5) | 10, at + 22)],
  ["ATTR40.JPG", (bytes, at) => bytes.writeUInt8(0x60, at + 11)],
  ["ATTR80.JPG", (bytes, at) => bytes.writeUInt8(0xa0, at + 11)],
  ["ATTRC0.JPG", (bytes, at) => bytes.writeUInt8(0xe0, at + 11)],
  ["LOWER.JPG", (bytes, at) => bytes.write("lower   jpg", at, "latin1")],
  ["PLUS.JPG", (bytes, at) => bytes.write("A+B     JPG", at, "latin1")],
  ["EQUALS.JPG", (bytes, at) => bytes.write("A=B     JPG", at, "latin1")],
  ["BRACKETS.JPG", (bytes, at) => bytes.write("A[B]    JPG", at, "latin1")],
  ["CREATED.JPG", (bytes, at) => bytes.writeUInt16LE(0xffff, at + 16)],
  ["NORMAL.JPG", () => {}],
];
for (const [index, [name]] of ODD.entries()) card.put(`/${name}`, jpegOf(64 + index, 48, index));
card.makeFolder("/FOLDER").put("/FOLDER/INSIDE.JPG", jpegOf(200, 100, 50));
const bytes = Buffer.from(card.bytes());
const entryOf = (name: string) => {
  const [base, ending = ""] = name.split(".");
  return bytes.indexOf(base.padEnd(8) + ending.padEnd(3), 0, "latin1");
};
for (const [name, oddity] of ODD) oddity(bytes, entryOf(name));
bytes.writeUInt32LE(4096, entryOf("FOLDER") + 28);
card.write(bytes);

test("all fourteen odd entries and a folder with a size are listed as present, as mdir lists them", async () => {
  const mdir = card
    .tool("mdir", "-b", "-/", "::/")
    .trim()
    .split("\n")
    .map((line) => line.replace(/^::/, ""))
    .filter((line) => !line.endsWith("/"));
  expect(mdir).toHaveLength(ODD.length + 1);
  const { files, troubles } = await listed(card.source());
  expect(troubles).toEqual([]);
  expect(files.every(({ erased }) => !erased)).toBe(true);
  expect(files.map(({ path }) => path?.toLowerCase()).sort()).toEqual(mdir.map((path) => path.toLowerCase()).sort());
  const checker = spawnSync("fsck.fat", ["-n", card.image], {
    encoding: "utf8",
    env: { ...process.env, PATH: `${process.env.PATH}:/usr/sbin` },
  });
  // It counts the folder, what is in it, and the label too.
  expect(checker.stdout).toMatch(new RegExp(`${ODD.length + 3} files`));
});

test("what their clocks cannot have said is no time; a wrong time of day leaves the day", async () => {
  const { files } = await listed(card.source());
  const modified = (name: string) => files.find(({ path }) => path === `/${name}`)?.modified;
  for (const name of ["DATE0000.JPG", "DATEFFFF.JPG", "MONTH13.JPG"]) expect(modified(name), name).toBeNull();
  expect(modified("SIXTY.JPG")).toBe(Date.UTC(2026, 4, 3, 18, 21, 0));
  expect(modified("HOUR25.JPG")).toBe(Date.UTC(2026, 4, 3));
  expect(modified("NORMAL.JPG")).toBe(Date.UTC(2026, 4, 3, 18, 20, 40));
});

test("a deep scan tells every one of them as present and whole, and nothing as erased", async () => {
  const { finds } = await scanned(card.source());
  expect([...finds.values()].map(({ state, condition }) => `${state}, ${condition}`)).toEqual(
    Array.from({ length: ODD.length + 1 }, () => "present, whole"),
  );
});

test("erased entries stay judged strictly: a folder's cluster that was overwritten by something else tells of no files", async () => {
  const fresh = new FatCard().makeFolder("/DCIM").put("/DCIM/SISK0001.JPG", noise(600));
  const before = await listed(fresh.source());
  const sector = Math.floor((before.files[0].at ?? 0) / 512) * 512;
  for (let seed = 1; seed <= 12; seed++) {
    const spoiled = fresh.bytes();
    spoiled.set(noise(512, seed), sector);
    const { files } = await listed(memorySource(spoiled, "card"));
    expect(
      files.filter(({ erased }) => !erased),
      `seed ${seed}`,
    ).toEqual([]);
  }
  fresh.remove();
});
