import { execFileSync } from "node:child_process";
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, expect, test } from "vitest";
import { noise } from "../test/pictures.ts";

/** What the house promises: a type, a detector, a file system are each a file and a line. Done here in a scratch copy, and found with. */
const HOME = new URL("..", import.meta.url).pathname;
const copy = mkdtempSync(join(tmpdir(), "jubar-house-"));
afterAll(() => rmSync(copy, { recursive: true }));

const TYPE = `
import { u32 } from "../../bytes/layout.ts";
import type { FollowedType } from "../file-type.ts";
import { format } from "../format.ts";
import { ascii, some, within } from "./follow.ts";
const song = format("bellsong", "audio", { endings: ["bell"], preview: "sound" });
export const bellSong: FollowedType = {
  reach: "followed",
  formats: [song],
  firstBytes: [0x42],
  beginsBytes: 8,
  begins: (bytes, at) => ascii(bytes, at, "BELL"),
  follow: async (content) => within(song, content, u32(4)(await some(content, 0, 8), 0)),
};
`;
const DETECTOR = `
import { NOTHING_KNOWN } from "../followed-find.ts";
import { type MakeDetector, NOTHING_SEEN } from "./detector.ts";
export const lamps: MakeDetector = () => ({
  name: "lamps",
  stopsFor: [],
  marks: [{ at: 0, bytes: [0x9a] }],
  wants: ({ bytes, within }) => bytes[within] === 0x9a && bytes[within + 1] === 0x9b,
  look: async ({ at }) => ({
    ...NOTHING_SEEN,
    finds: [{ ...NOTHING_KNOWN, id: "lamp" + at, because: "a lamp stands here", size: 512, extents: [{ offset: at, length: 512 }], volume: null, evidence: [{ pass: "sweep", what: "a lamp", at }] }],
  }),
});
`;
const FILE_SYSTEM = `
import type { OpenVolume } from "./table.ts";
export const openCrate: OpenVolume = async (source, start, length, index) => {
  const head = await source.read(start, 512);
  if (String.fromCharCode(...head.subarray(0, 5)) !== "CRATE") return null;
  const info = { index, filesystem: "crate", start, length, label: null, encrypted: false, used: 1024, free: length - 1024, clusterBytes: 512 };
  const file = {
    at: start + 5, erased: false, name: "in the crate.bell", path: "/in the crate.bell", size: 512, modified: null, firstByte: start + 512,
    placements: [{ extents: [{ offset: start + 512, length: 512 }], how: "it follows the lid" }], traces: [{ what: "the lid names it", at: start }],
  };
  return {
    info,
    troubles: [],
    async *list() { yield { files: [file], troubles: [] }; },
    freeRuns: () => [{ offset: start + 1024, length: length - 1024 }],
    mayDig: () => false,
    dig: async () => ({ files: [], troubles: [] }),
  };
};
`;
const RUN = `
import { memorySource } from "./core/bytes/memory-source.ts";
import { scan } from "./core/scan/engine.ts";
import { promisedBy } from "./core/filetypes/table.ts";
import { readFileSync } from "node:fs";
const source = memorySource(new Uint8Array(readFileSync(process.argv[2])), "crate.img");
const finds = [];
for await (const event of scan(source, { depth: "deep", kinds: null }, new AbortController().signal))
  if (event.type === "batch") finds.push(...event.finds.map(({ id, kind, format, state, name, size }) => ({ id, kind, format, state, name, size })));
console.log(JSON.stringify({ finds, promised: promisedBy("a.bell").name }));
`;

function addLine(file: string, from: string, imported: string, list: string, entry: string): void {
  const path = join(copy, file);
  const text = readFileSync(path, "utf8");
  const at = text.indexOf("[", text.indexOf("= ", text.indexOf(list)));
  expect(at).toBeGreaterThan(0);
  writeFileSync(path, `import { ${imported} } from "${from}";\n${text.slice(0, at + 1)}${entry}, ${text.slice(at + 1)}`);
}

test("a type, a detector and a file system: each a file and a line, and a scan finds with them", () => {
  cpSync(join(HOME, "core"), join(copy, "core"), { recursive: true, filter: (path) => !path.endsWith(".test.ts") });
  cpSync(join(HOME, "package.json"), join(copy, "package.json"));
  symlinkSync(join(HOME, "node_modules"), join(copy, "node_modules"));
  writeFileSync(join(copy, "core/filetypes/followed/bell-song.ts"), TYPE);
  addLine("core/filetypes/table.ts", "./followed/bell-song.ts", "bellSong", "FILE_TYPES:", "bellSong");
  writeFileSync(join(copy, "core/scan/detect/lamps.ts"), DETECTOR);
  addLine("core/scan/detect/table.ts", "./lamps.ts", "lamps", "DETECTORS:", "lamps");
  writeFileSync(join(copy, "core/filesystems/crate.ts"), FILE_SYSTEM);
  addLine("core/filesystems/table.ts", "./crate.ts", "openCrate", "FILE_SYSTEMS:", "openCrate");
  writeFileSync(join(copy, "run.ts"), RUN);

  const image = Buffer.alloc(128 * 1024);
  image.write("CRATE");
  image.write("BELL", 512);
  image.writeUInt32LE(512, 516);
  Buffer.from(noise(900, 3)).copy(image, 20_480);
  image.write("BELL", 20_480);
  image.writeUInt32LE(900, 20_484);
  image.set([0x9a, 0x9b], 40_960);
  writeFileSync(join(copy, "crate.img"), image);

  const told = JSON.parse(execFileSync(process.execPath, ["--import", "tsx", "run.ts", "crate.img"], { cwd: copy, encoding: "utf8" }));
  expect(told.promised).toBe("bellsong");
  expect(told.finds).toEqual(
    expect.arrayContaining([
      { id: "e5", kind: "audio", format: "bellsong", state: "present", name: "in the crate.bell", size: 512 },
      { id: "b5000", kind: "audio", format: "bellsong", state: "erased", name: null, size: 900 },
      { id: "lamp40960", kind: "other", format: "unknown", state: "erased", name: null, size: 512 },
    ]),
  );
  expect(told.finds).toHaveLength(3);
});
