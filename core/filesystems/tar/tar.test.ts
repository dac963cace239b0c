import { execFileSync } from "node:child_process";
import {
  closeSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  truncateSync,
  utimesSync,
  writeFileSync,
  writeSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { afterAll, expect, test } from "vitest";
import { noise } from "../../../test/pictures.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { patientSource } from "../../bytes/patient-source.ts";
import { openVolumes } from "../open-volumes.ts";
import type { ListedFile } from "../volume.ts";
import { tarSource } from "./tar-source.ts";
import { openTar } from "./tar-volume.ts";

/** Against GNU tar, both ways (POSIX.1-2001, pax Interchange Format). */
const folder = mkdtempSync(join(tmpdir(), "jubar-tar-"));
afterAll(() => rmSync(folder, { recursive: true }));
const long = `Pictures/${"Wanderbühne ".repeat(14)}/${"ü".repeat(90)}.jpg`;
const files = ["DCIM/a.jpg", "empty.txt", "Übersicht – März.png", long].map((path, index) => ({
  path,
  content: noise(index === 1 ? 0 : 1000 + index * 513),
  modified: Date.UTC(2026, 4, 2 + index, 21, 14, 9),
}));

async function listed(bytes: Uint8Array): Promise<{ files: ListedFile[]; troubles: string[] }> {
  const [volume] = (await openVolumes(patientSource(memorySource(bytes)))).volumes;
  const all = { files: [] as ListedFile[], troubles: [] as string[] };
  for await (const batch of volume.list()) {
    all.files.push(...batch.files);
    all.troubles.push(...batch.troubles.map(({ what }) => what));
  }
  return all;
}
const contentOf = (bytes: Uint8Array, { placements: [{ extents }] }: ListedFile) =>
  Buffer.concat(extents.map(({ offset, length }) => (offset < 0 ? Buffer.alloc(length) : bytes.subarray(offset, offset + length))));

test("files as an archive: tar unpacks them byte for byte, with their times", async () => {
  const source = tarSource(
    "copy",
    files.map(({ content, ...file }) => ({ ...file, size: content.length, content: memorySource(content) })),
  );
  const pieces: Uint8Array[] = [];
  for (let at = 0; at < source.size; at += 700) pieces.push(await source.read(at, Math.min(700, source.size - at)));
  const path = join(folder, "own.tar");
  writeFileSync(path, Buffer.concat(pieces));
  const out = join(folder, "out");
  mkdirSync(out);
  expect(
    execFileSync("tar", ["-xvf", path, "-C", out], { encoding: "utf8", env: { ...process.env, LC_ALL: "C.UTF-8" } })
      .trim()
      .split("\n"),
  ).toHaveLength(4);
  for (const { path: name, content, modified } of files) {
    expect(readFileSync(join(out, name)).equals(Buffer.from(content)), name).toBe(true);
    expect(statSync(join(out, name)).mtimeMs).toBe(modified);
  }
  expect((await listed(Buffer.concat(pieces))).files.map(({ path: one, modified }) => [one, modified])).toEqual(
    files.map(({ path: one, modified }) => [`/${one}`, modified]),
  );
});

test.each(["pax", "ustar", "gnu"])("an archive of tar's format %s is listed with names, times and content", async (format) => {
  const from = join(folder, format);
  // The two older formats write long names in ways of their own: only the standard's are read.
  const some = format === "pax" ? files : files.slice(0, 2);
  for (const { path, content, modified } of some) {
    mkdirSync(dirname(join(from, path)), { recursive: true });
    writeFileSync(join(from, path), content);
    utimesSync(join(from, path), modified / 1000, modified / 1000);
  }
  const archive = execFileSync("tar", [`--format=${format}`, "-C", from, "-cf", "-", ...readdirSync(from)], { maxBuffer: 2 ** 24 });
  const { files: found, troubles } = await listed(archive);
  expect(troubles).toEqual([]);
  for (const { path, content, modified } of some) {
    const file = found.find((one) => one.path === `/${path}`);
    expect(file, path).toMatchObject({ size: content.length, modified, erased: false });
    expect(file && contentOf(archive, file).equals(Buffer.from(content))).toBe(true);
  }
});

test("what is no archive is none; a cut or broken one gives what stands before, and says so", async () => {
  const source = tarSource(
    "copy",
    files.map(({ content, ...file }) => ({ ...file, size: content.length, content: memorySource(content) })),
  );
  const whole = await source.read(0, source.size);
  for (const bytes of [noise(4096), new Uint8Array(4096)]) expect(await openTar(patientSource(memorySource(bytes)), 0, 4096, 0)).toBeNull();
  const cut = await listed(whole.subarray(0, 512 + 400));
  expect(cut.files).toHaveLength(1);
  expect(cut.troubles.join()).toMatch(/ends in the middle/);
  const broken = Buffer.from(whole);
  broken.fill(0xff, 512 + 1024 + 512, 512 + 1024 + 530);
  expect((await listed(broken)).troubles.join()).toMatch(/broken here/);
  for (let at = 0; at < 600; at++) {
    const mutated = Buffer.from(whole);
    mutated[(at * 37) % mutated.length] ^= 1 << (at % 8);
    mutated[124 + (at % 12)] ^= at;
    const volume = await openTar(patientSource(memorySource(mutated)), 0, mutated.length, 0);
    if (volume)
      for await (const { files: some } of volume.list())
        for (const { placements } of some)
          for (const { extents } of placements)
            for (const { offset, length } of extents) expect(offset + length).toBeLessThanOrEqual(mutated.length);
  }
});

/** A folder with what the formats differ in: long names and link names, a second name of a file, a sparse file of many stretches. */
function varied(): { root: string; contents: Map<string, Buffer> } {
  const root = mkdtempSync(join(folder, "varied-"));
  const contents = new Map<string, Buffer>();
  const put = (path: string, content: Uint8Array) => {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), content);
    contents.set(path, Buffer.from(content));
  };
  put("short.txt", noise(700, 1));
  put(`${"deep/".repeat(30)}${"n".repeat(110)}.jpg`, noise(1500, 2));
  put(`prefixed/${"p".repeat(60)}/${"q".repeat(70)}.jpg`, noise(1200, 3));
  linkSync(join(root, "short.txt"), join(root, "twin.txt"));
  contents.set("twin.txt", contents.get("short.txt") ?? Buffer.alloc(0));
  linkSync(join(root, `${"deep/".repeat(30)}${"n".repeat(110)}.jpg`), join(root, "z twin of the long one.jpg"));
  contents.set("z twin of the long one.jpg", Buffer.from(noise(1500, 2)));
  symlinkSync("short.txt", join(root, "symbolic"));
  const sparse = Buffer.alloc(3_000_000);
  for (let piece = 0; piece < 30; piece++) sparse.set(noise(4096 + piece, piece), piece * 98_304);
  writeFileSync(join(root, "sparse.bin"), "");
  truncateSync(join(root, "sparse.bin"), sparse.length);
  const file = openSync(join(root, "sparse.bin"), "r+");
  for (let piece = 0; piece < 30; piece++) writeSync(file, noise(4096 + piece, piece), 0, 4096 + piece, piece * 98_304);
  closeSync(file);
  contents.set("sparse.bin", sparse);
  return { root, contents };
}

test.each([
  ["gnu", ["--format=gnu"]],
  ["gnu, sparse", ["--format=gnu", "--sparse"]],
  ["oldgnu, sparse", ["--format=oldgnu", "--sparse"]],
  ["pax", ["--format=pax"]],
  ["pax, sparse 0.0", ["--format=pax", "--sparse", "--sparse-version=0.0"]],
  ["pax, sparse 0.1", ["--format=pax", "--sparse", "--sparse-version=0.1"]],
  ["pax, sparse 1.0", ["--format=pax", "--sparse", "--sparse-version=1.0"]],
  ["ustar", ["--format=ustar"]],
  ["v7", ["--format=v7"]],
])(
  "archives of GNU tar in format %s: every file with its whole name and content, sparse ones with their zeros",
  async (format, options) => {
    const { root, contents } = varied();
    const path = join(folder, "varied.tar");
    // Two formats have no room for the longest name.
    const short = format === "ustar" || format === "v7";
    const left =
      format === "v7" ? ["--exclude=deep", "--exclude=prefixed", "--exclude=z*"] : short ? ["--exclude=deep", "--exclude=z*"] : [];
    execFileSync("tar", [...options, "--sort=name", ...left, "-cf", path, "-C", root, "."], { stdio: ["ignore", "ignore", "pipe"] });
    const bytes = readFileSync(path);
    if (options.includes("--sparse")) expect(bytes.length).toBeLessThan(400_000);
    const { files: found, troubles } = await listed(bytes);
    expect(troubles).toEqual([]);
    const expected = [...contents.keys()].filter(
      (name) => !short || !(name.startsWith("deep/") || name.startsWith("z ") || (format === "v7" && name.startsWith("prefixed"))),
    );
    expect(found.map((file) => file.path?.slice(1)).sort()).toEqual(expected.sort());
    for (const file of found) {
      const content = contents.get(file.path?.slice(1) ?? "");
      expect(file.size, file.path ?? "").toBe(content?.length);
      expect(contentOf(bytes, file).equals(content ?? Buffer.alloc(1)), file.path ?? "").toBe(true);
    }
  },
);

const packed = (): Buffer => {
  const { root } = varied();
  return execFileSync("tar", ["--format=gnu", "--sort=name", "-cf", "-", "-C", root, "."], { maxBuffer: 1 << 24 });
};

test("sizes beyond octal digits, as GNU tar writes them, are read; absurd ones end the reading in words", async () => {
  const bytes = packed();
  const rewritten = (size: readonly number[]) => {
    const changed = Buffer.from(bytes);
    const at = changed.indexOf("short.txt");
    const header = at - (changed.subarray(at - 2, at).toString("latin1") === "./" ? 2 : 0);
    changed.set(size, header + 124);
    changed.fill(0x20, header + 148, header + 156);
    const sum = changed.subarray(header, header + 512).reduce((all, byte) => all + byte, 0);
    changed.write(`${sum.toString(8).padStart(6, "0")}\0 `, header + 148, "latin1");
    return changed;
  };
  const whole = await listed(rewritten([0x80, 0, 0, 0, 0, 0, 0, 0, 0, 0, 700 >> 8, 700 & 255]));
  expect(whole.files.find((file) => file.path === "/short.txt")?.size).toBe(700);
  const absurd = await listed(rewritten([0x80, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff]));
  expect(absurd.troubles).toEqual(["an entry of the archive says a size that cannot be: what follows cannot be told apart"]);
});

test("an archive that was cut off says so, wherever it was cut", async () => {
  const bytes = packed();
  const last = bytes.length - 10_240;
  for (const length of [last - (last % 512), 1024, 2000, last - 700]) {
    const { troubles } = await listed(bytes.subarray(0, length));
    expect(troubles.join(), `${length}`).toMatch(/no end|in the middle of a file/);
  }
});
