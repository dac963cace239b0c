import { deflateSync } from "node:zlib";
import { expect, test } from "vitest";
import { aFind } from "../../test/finds.ts";
import { noise } from "../../test/pictures.ts";
import { hashOf } from "../../test/scanning.ts";
import { Contents } from "../archives/stream.ts";
import { faultySource } from "../bytes/faulty-source.ts";
import { portableSha256 } from "../bytes/hash.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { patientSource } from "../bytes/patient-source.ts";
import type { Item } from "./item.ts";
import { cleanName, freeName } from "./names.ts";
import { planFiles } from "./plan.ts";
import { summaryPage } from "./summary.ts";
import { type Destination, HASH_LIST, type WrittenFile, writeFiles } from "./write.ts";

test.each([
  ["holiday.jpg", "holiday.jpg"],
  ["Афиша май, Entwurf (2).png", "Афиша май, Entwurf (2).png"],
  ["../../etc/passwd", "_.._etc_passwd"],
  ["C:\\windows\\x.jpg", "C__windows_x.jpg"],
  ["?ISK0412.JPG", "_ISK0412.JPG"],
  [".hidden", "hidden"],
  ["trailing. . ", "trailing"],
  ["CON.jpg", "_CON.jpg"],
  ["com7", "_com7"],
  ["photo\u202egnp.exe", "photognp.exe"],
  ["line\nbreak\u0000.txt", "linebreak.txt"],
  ["lone \ud83c surrogate.png", "lone \ufffd surrogate.png"],
  ["", "unnamed"],
  ["...", "unnamed"],
  [`${"x".repeat(400)}.jpeg`, `${"x".repeat(120)}.jpeg`],
  // 120 letters of three bytes each would be 360 bytes.
  [`${"傀".repeat(120)}.jpeg`, `${"傀".repeat(83)}.jpeg`],
  [`${"🎪".repeat(120)}.jpeg`, `${"🎪".repeat(62)}.jpeg`],
])("%j is written as %j", (name, written) => {
  expect(cleanName(name)).toBe(written);
});

test("numbered names fit too, whatever their letters take", () => {
  const taken = new Set<string>();
  const names = Array.from({ length: 120 }, () => freeName(cleanName(`${"傀".repeat(200)}.jpeg`), taken));
  expect(new Set(names).size).toBe(120);
  for (const name of names) expect(Buffer.byteLength(name)).toBeLessThanOrEqual(255);
  expect(names[119]).toMatch(/^傀+ \(120\)\.jpeg$/);
});

test("a sub-folder per kind; the same name in another case is numbered; what is there already counts as taken", () => {
  const place = [{ offset: 0, length: 4 }];
  const finds = [
    aFind({ id: "1", name: "a.jpg", extents: place }),
    aFind({ id: "2", name: "A.JPG", extents: place }),
    aFind({ id: "3", name: "a.jpg", kind: "document", extents: place }),
    aFind({ id: "4", name: null, taken: Date.UTC(2026, 4, 3, 18, 20, 41), extents: place }),
    aFind({ id: "5", name: null, format: "png", extents: [{ offset: 4096, length: 4 }] }),
    aFind({ id: "6", name: "place in use now.jpg", extents: [], size: 900 }),
    aFind({ id: "7", name: "b.jpg", extents: place }),
  ];
  expect(planFiles(finds, { photos: ["B.jpg"] }).map(({ path }) => path)).toEqual([
    "photos/a.jpg",
    "photos/A (2).JPG",
    "documents/a.jpg",
    "photos/2026-05-03 18.20.41.jpg",
    "photos/found at 4096.png",
    "photos/b (2).jpg",
  ]);
});

test("a sub-folder per format, where that was chosen", () => {
  const place = [{ offset: 0, length: 4 }];
  const finds = [
    aFind({ id: "1", name: "a.jpg", extents: place }),
    aFind({ id: "2", name: "a.jpg", format: "png", extents: place }),
    aFind({ id: "3", name: "a.jpg", kind: "video", extents: place }),
    aFind({ id: "4", name: "b", format: "../x", extents: place }),
  ];
  expect(planFiles(finds, { jpeg: ["a.jpg"] }, "format").map(({ path }) => path)).toEqual([
    "jpeg/a (2).jpg",
    "png/a.jpg",
    "jpeg/a (3).jpg",
    "_x/b",
  ]);
});

/** A destination in memory that can refuse a file, or turn a byte of it over. */
function memory({ refuses = "", spoils = "", loses = "" } = {}) {
  const files = new Map<string, Uint8Array>();
  const steps: string[] = [];
  const destination: Destination = {
    async write(path, pieces) {
      steps.push(`write ${path}`);
      const parts: Uint8Array[] = [];
      for await (const piece of pieces) parts.push(piece.slice());
      if (path === refuses) throw Object.assign(new Error("ENOSPC: no space left on device, write"), { code: "ENOSPC" });
      files.set(path, new Uint8Array(Buffer.concat(parts)));
    },
    finish: async () => void steps.push("finish"),
    async *readBack(path) {
      steps.push(`read ${path}`);
      if (path === loses) throw Object.assign(new Error("ENOENT: no such file"), { code: "ENOENT" });
      const bytes = (files.get(path) ?? new Uint8Array(0)).slice();
      if (path === spoils) bytes[0] ^= 1;
      yield bytes;
    },
  };
  return { destination, files, steps };
}

const medium = noise(3 * 1024 * 1024, 4);
const finds = [
  aFind({ id: "1", name: "one.jpg", extents: [{ offset: 100, length: 1_500_000 }] }),
  aFind({
    id: "2",
    name: "two.jpg",
    extents: [
      { offset: 2_000_000, length: 512 },
      { offset: 1024, length: 90 },
    ],
  }),
  aFind({ id: "3", name: "three.jpg", extents: [{ offset: 2_500_000, length: 5000 }] }),
];
const contents = finds.map(({ extents }) => Buffer.concat(extents.map(({ offset, length }) => medium.subarray(offset, offset + length))));

async function given(
  faults: Parameters<typeof memory>[0] = {},
  dead: readonly number[] = [],
  chosen = finds,
  items: readonly Item[] | null = null,
) {
  const source = patientSource(
    faultySource(
      memorySource(medium, "card"),
      dead.map((start) => ({ start, length: 1, behaviour: "dead" })),
      async () => {},
    ),
  );
  const open = { source, contents: new Contents(source) };
  const { destination, files, steps } = memory(faults);
  const checked: WrittenFile[] = [];
  const notes: string[] = [];
  for await (const event of writeFiles(items ?? planFiles(chosen), () => open, destination, await portableSha256()))
    if (event.type === "checked") checked.push(event.file);
    else if (event.type === "no list") notes.push(event.because);
  return { checked, files, steps, notes };
}
const outcomes = (checked: readonly WrittenFile[]) => checked.map(({ outcome, because }) => [outcome, because]);

test("files are written byte for byte, then all are read back and compared; the hash list is as sha256sum reads it", async () => {
  const { checked, files, steps } = await given();
  const paths = ["photos/one.jpg", "photos/two.jpg", "photos/three.jpg"];
  paths.forEach((path, index) => {
    expect(Buffer.from(files.get(path) ?? []).equals(contents[index]), path).toBe(true);
  });
  expect(checked.map(({ path, outcome, sha256 }) => [path, outcome, sha256])).toEqual(
    contents.map((content, index) => [paths[index], "equal", hashOf(content)]),
  );
  expect(new TextDecoder().decode(files.get(HASH_LIST))).toBe(
    contents.map((content, index) => `${hashOf(content)}  ${paths[index]}\n`).join(""),
  );
  expect(steps).toEqual([...paths.map((path) => `write ${path}`), `write ${HASH_LIST}`, "finish", ...paths.map((path) => `read ${path}`)]);
});

test("one file that cannot be written is said so at once, and the rest goes on", async () => {
  const { checked, files } = await given({ refuses: "photos/two.jpg" });
  expect(checked.map(({ path, outcome, because }) => [path, outcome, because])).toEqual([
    ["photos/two.jpg", "failed", "there is no room left where it goes"],
    ["photos/one.jpg", "equal", null],
    ["photos/three.jpg", "equal", null],
  ]);
  expect(new TextDecoder().decode(files.get(HASH_LIST))).not.toContain("two.jpg");
});

test("a list of hashes that finds no room is said so, and the files are checked all the same", async () => {
  const { checked, notes } = await given({ refuses: HASH_LIST });
  expect(notes).toEqual(["there is no room left where it goes"]);
  expect(checked.map(({ outcome }) => outcome)).toEqual(["equal", "equal", "equal"]);
});

test("a file that cannot be read back is not called arrived", async () => {
  const { checked } = await given({ loses: "photos/one.jpg" });
  expect(outcomes(checked)[0]).toEqual(["different", "it cannot be read back: the folder is gone"]);
});

test("one turned-over bit on the way back is noticed", async () => {
  const { checked } = await given({ spoils: "photos/three.jpg" });
  expect(outcomes(checked)[2]).toEqual(["different", "what was read back is not what was written"]);
});

test("a medium that gives other bytes than when it was scanned is noticed, though they were written as they came", async () => {
  const [one, ...others] = finds;
  const { checked } = await given(
    {},
    [],
    [
      { ...one, sha256: hashOf(contents[0]) },
      { ...others[0], sha256: hashOf(contents[2]) },
    ],
  );
  expect(outcomes(checked)).toEqual([
    ["equal", null],
    ["different", "the medium gave other bytes for it than when it was scanned"],
  ]);
});

test("bytes that the medium does not give are zeros, and said so", async () => {
  const { checked, files } = await given({}, [2_500_100]);
  expect(outcomes(checked)[2]).toEqual(["holes", "512 bytes cannot be read from the medium: zeros stand there"]);
  // The whole sector that holds the dead byte is lost.
  const sector = Math.floor(2_500_100 / 512) * 512;
  const expected = Buffer.from(contents[2]);
  expected.fill(0, sector - 2_500_000, sector + 512 - 2_500_000);
  expect(Buffer.from(files.get("photos/three.jpg") ?? []).equals(expected)).toBe(true);
});

test("bytes in hand and files that are made while they are written go the same road; one that breaks off while it is made is said so", async () => {
  const line = new TextEncoder().encode("crocodile;moon rig\n");
  async function* lines(breaks: boolean) {
    yield line;
    if (breaks) throw new Error("a row of it cannot be read");
    yield line;
  }
  const about = "made here";
  const made = (breaks: boolean) => ({ make: () => lines(breaks), size: null });
  const { checked, files } = await given(
    {},
    [],
    [],
    [
      { path: "a.csv", pieces: { bytes: line }, sha256: null, about },
      { path: "b.csv", pieces: made(false), sha256: null, about },
      { path: "c.csv", pieces: made(true), sha256: null, about },
      { path: "d.csv", pieces: { bytes: line }, sha256: hashOf(noise(4, 1)), about },
    ],
  );
  expect(checked.map(({ path, outcome, because, bytes }) => [path, outcome, because, bytes])).toEqual([
    ["c.csv", "failed", "a row of it cannot be read", line.length],
    ["a.csv", "equal", null, line.length],
    ["b.csv", "equal", null, 2 * line.length],
    ["d.csv", "different", "the medium gave other bytes for it than when it was scanned", line.length],
  ]);
  expect(Buffer.from(files.get("b.csv") ?? []).toString()).toBe("crocodile;moon rig\ncrocodile;moon rig\n");
  expect(files.has("c.csv")).toBe(false);
});

test("what lies packed is given back unpacked, several of one stream in any order", async () => {
  const [one, two] = [noise(90_000, 8), new Uint8Array(200_000).fill(65)];
  const stream = deflateSync(Buffer.concat([one, two]));
  const place = [{ offset: 2_600_000, length: stream.length }];
  const packed = (skip: number, size: number, path: string, content: Uint8Array): Item => ({
    path,
    pieces: { medium: "card", extents: place, size, packed: { with: "zlib", skip } },
    sha256: hashOf(content),
    about: "erased, whole",
  });
  medium.set(stream, 2_600_000);
  const { checked } = await given({}, [], [], [packed(one.length, two.length, "two.txt", two), packed(0, one.length, "one.bin", one)]);
  expect(outcomes(checked)).toEqual([
    ["equal", null],
    ["equal", null],
  ]);
  const beyond = await given({}, [], [], [packed(one.length, two.length + 1, "more.txt", two)]);
  expect(outcomes(beyond.checked)).toEqual([["failed", expect.stringContaining("what is packed ends here")]]);
});

test("the summary counts, names and escapes; nothing in it can run or load", () => {
  const [item] = planFiles(finds);
  const page = summaryPage({
    ticket: "0101",
    customer: "Ilse <script>alert(1)</script> & Co",
    device: "",
    media: [{ name: "card.img", bytes: 3_145_728 }],
    at: Date.UTC(2026, 10, 25, 8, 30),
    wants: [
      { words: "photos 2–9 May", given: 3 },
      { words: "<b>calls", given: 0 },
    ],
    files: [
      { item, path: 'photos/"><img src=x onerror=alert(1)>.jpg', outcome: "equal", because: null, sha256: "ab", bytes: 4, lost: 0 },
      { item, path: "photos/b.jpg", outcome: "failed", because: "the disk is full", sha256: null, bytes: 4, lost: 0 },
      { item, path: "photos/c.jpg", outcome: "holes", because: "1024 bytes are zeros", sha256: "cd", bytes: 4096, lost: 1024 },
    ],
  });
  expect(page).toContain("1 more written with holes: 1,024 bytes could not be read from the medium");
  expect(page).toContain("1 of 3 files written, read back and found equal");
  expect(page).toContain("2026-11-25 08:30 UTC");
  expect(page).toContain("the disk is full");
  expect(page).toContain("<dt>Asked for</dt><dd>photos 2–9 May: 3 given</dd><dt>Asked for</dt><dd>&#60;b&#62;calls: nothing given</dd>");
  expect(page).not.toMatch(/<script|<img|src=x onerror=alert\(1\)>/);
});
