import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { afterAll, expect, test } from "vitest";
import { noise } from "../../../test/pictures.ts";
import { memorySource } from "../../bytes/memory-source.ts";
import { patientSource } from "../../bytes/patient-source.ts";
import type { ListedFile } from "../../medium/volume.ts";
import { openVolumes } from "../open-volumes.ts";
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
  Buffer.concat(extents.map(({ offset, length }) => bytes.subarray(offset, offset + length)));

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
