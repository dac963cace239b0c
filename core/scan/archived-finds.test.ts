import { execFileSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { crc32, deflateRawSync, gunzipSync, gzipSync } from "node:zlib";
import { configure, Uint8ArrayReader, Uint8ArrayWriter, ZipWriter } from "@zip.js/zip.js";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { packBackup } from "../../demo/pack-backup.ts";
import { seeded } from "../../demo/random.ts";
import { FatCard } from "../../test/fat-card.ts";
import { joined, noise, pngOf } from "../../test/pictures.ts";
import { hashOf, type Outcome, scanned } from "../../test/scanning.ts";
import { entriesOf } from "../archives/open.ts";
import { CentralHeader, EndRecord, LocalHeader } from "../archives/zip-layout.ts";
import { memorySource } from "../bytes/memory-source.ts";
import type { Find } from "../finds/find.ts";

/** Archives by Info-ZIP's zip, GNU tar and gzip, zip.js (ZIP64), on a card by mkfs.vfat: what is in them must come out, byte for byte. */
const folder = mkdtempSync(join(tmpdir(), "jubar-archives-"));
const MOMENT = new Date("2026-05-03T18:20:40Z");
const LINES = Buffer.from("The crocodile sleeps under the moon rig.\n".repeat(4000));
const CONTENTS: Record<string, Uint8Array> = {
  "tour/poster.png": pngOf(300, 200),
  "tour/lines.txt": LINES,
  "tour/Übersicht.bin": noise(70_000, 5),
  "empty.txt": new Uint8Array(0),
};
configure({ useWebWorkers: false });

const inFolder = (command: string, ...args: string[]) => execFileSync(command, args, { cwd: folder, stdio: ["ignore", "pipe", "pipe"] });
const made = (name: string) => new Uint8Array(readFileSync(join(folder, name)));

let zipped: Uint8Array;
let streamed: Uint8Array;
let locked: Uint8Array;
let tarred: Uint8Array;
let backup: Uint8Array;
let unpackedBackup: Uint8Array;
const cards: FatCard[] = [];

beforeAll(() => {
  for (const [path, content] of Object.entries(CONTENTS)) {
    mkdirSync(join(folder, dirname(path)), { recursive: true });
    writeFileSync(join(folder, path), content);
    utimesSync(join(folder, path), MOMENT, MOMENT);
  }
  inFolder("zip", "-r", "plain.zip", "tour", "empty.txt");
  inFolder("sh", "-c", "zip -r - tour empty.txt > streamed.zip");
  inFolder("zip", "-P", "moon rig", "locked.zip", "tour/lines.txt");
  inFolder("tar", "-cf", "plain.tar", "tour", "empty.txt");
  [zipped, streamed, locked, tarred] = ["plain.zip", "streamed.zip", "locked.zip", "plain.tar"].map(made);
  unpackedBackup = new Uint8Array(gunzipSync(readFileSync("demo/theatre-phone.ab.gz")));
  backup = new Uint8Array(packBackup(unpackedBackup.subarray(Buffer.from(unpackedBackup).indexOf("none\n") + 5)));
});
afterAll(() => {
  rmSync(folder, { recursive: true });
  for (const card of cards) card.remove();
});

/** A card with these files, of which some are erased again. */
function cardOf(files: Readonly<Record<string, Uint8Array>>, erased: readonly string[] = []): FatCard {
  const card = new FatCard();
  cards.push(card);
  for (const [name, content] of Object.entries(files)) card.put(`/${name}`, content, MOMENT);
  for (const name of erased) card.erase(`/${name}`);
  return card;
}
const inside = ({ finds }: Outcome): Find[] => [...finds.values()].filter(({ evidence }) => evidence[0].pass === "archives");
const told = (outcome: Outcome) =>
  Object.fromEntries(inside(outcome).map(({ path, state, condition, sha256 }) => [path, [state, condition, sha256]]));
const expected = (archive: string, state: string, condition = "whole") =>
  Object.fromEntries(
    Object.entries(CONTENTS).map(([path, content]) => [
      `/${archive}/${path}`,
      [state, condition, content.length === 0 ? null : hashOf(content)],
    ]),
  );
async function entries(content: Uint8Array, how: Parameters<typeof entriesOf>[0] = "zip") {
  const troubles: string[] = [];
  const all = [];
  for await (const entry of entriesOf(how, memorySource(content, "it"), (what) => troubles.push(what))) all.push(entry);
  return { all, troubles };
}

describe("files in archives on a card", () => {
  test("ZIP, tar, packed tar: each is a find inside the archive, with its bytes, its name and its time", async () => {
    const card = cardOf({ "plain.zip": zipped, "plain.tar": tarred, "packed.tgz": gzipSync(tarred) });
    const outcome = await scanned(card.source());
    expect(told(outcome)).toEqual({
      ...expected("plain.zip", "present"),
      ...expected("plain.tar", "present"),
      ...expected("packed.tgz", "present"),
    });
    const [holder] = [...outcome.finds.values()].filter(({ name }) => name === "plain.zip");
    const poster = inside(outcome).find(({ path }) => path === "/plain.zip/tour/poster.png");
    expect(poster).toMatchObject({ inside: holder.id, kind: "photo", format: "png", checked: true, modified: MOMENT.getTime() });
    expect(poster?.width).toBeGreaterThan(0);
    expect(outcome.troubles).toEqual([]);
  });

  test("a backup's databases are read, packed or not: rows that were erased in them come back without opening it by hand", async () => {
    const card = cardOf({ "phone.ab": backup, "old.ab": unpackedBackup });
    const outcome = await scanned(card.source());
    const erased = (name: string) => {
      const ids = inside(outcome).flatMap(({ id, path }) => (path?.startsWith(`/${name}/`) ? [id] : []));
      return outcome.records.filter(({ state, database }) => state === "erased" && database !== null && ids.includes(database));
    };
    expect(erased("phone.ab").length).toBeGreaterThan(100);
    expect(erased("phone.ab").some(({ columns }) => String(columns.body).includes("moon rig"))).toBe(true);
    expect(erased("phone.ab").map(({ columns }) => columns)).toEqual(erased("old.ab").map(({ columns }) => columns));
    expect(inside(outcome).filter(({ packed }) => packed?.with === "zlib")).toHaveLength(inside(outcome).length / 2);
  });

  test("erased archives are opened too, found by list or by their content", async () => {
    // The first letter of a short name is lost with its entry.
    const card = cardOf({ "plain.zip": zipped, "plain.tar": tarred }, ["plain.zip", "plain.tar"]);
    const erased = await scanned(card.source());
    const [fromTar, fromZip] = [expected("?lain.tar", "erased", "damaged"), expected("?lain.zip", "erased")];
    // Nothing vouches for what lies in a tar archive, but a picture vouches for itself: that one was found by its content.
    delete fromTar["/?lain.tar/tour/poster.png"];
    fromTar["/?lain.tar/empty.txt"][1] = "whole";
    expect(told(erased)).toEqual({ ...fromTar, ...fromZip });
    expect([...erased.finds.values()].find(({ path }) => path === "/?lain.tar/tour/poster.png")).toMatchObject({
      condition: "whole",
      inside: [...erased.finds.values()].find(({ name }) => name === "?lain.tar")?.id,
    });
    const bare = cardOf({});
    const bytes = bare.bytes();
    bytes.set(zipped, 20 * 1024 * 1024);
    const outcome = await scanned(memorySource(bytes, "card.img"));
    expect(told(outcome)).toEqual(expected(`found at ${20 * 1024 * 1024}.zip`, "erased"));
  });

  test("what was written over in an erased archive is damaged and what was not is whole", async () => {
    const card = cardOf({ "plain.zip": zipped }, ["plain.zip"]);
    const bytes = card.bytes();
    const all = (await entries(zipped)).all;
    const at = Buffer.from(bytes).indexOf(Buffer.from(zipped.subarray(0, 64)));
    const bin = all.find(({ path }) => path.endsWith(".bin"));
    bytes.fill(0x5a, at + (bin?.extents[0].offset ?? 0) + 30_000, at + (bin?.extents[0].offset ?? 0) + 34_000);
    const outcome = await scanned(memorySource(bytes, "card.img"));
    const [broken] = inside(outcome).filter(({ name }) => name === "Übersicht.bin");
    expect(broken).toMatchObject({ state: "erased", condition: "damaged" });
    expect(told(outcome)).toMatchObject({ "/?lain.zip/tour/lines.txt": ["erased", "whole", hashOf(LINES)] });
  });

  test("an archive whose directory is gone is opened header by header, sizes behind the content too", async () => {
    for (const archive of [zipped, streamed]) {
      const cut = archive.subarray(0, Buffer.from(archive).indexOf("PK\x01\x02", 0, "latin1"));
      const { all } = await entries(cut);
      expect(all.map(({ path, size }) => [path, size])).toEqual(
        expect.arrayContaining(Object.entries(CONTENTS).map(([path, { length }]) => [`/${path}`, length])),
      );
    }
  });

  test("ZIP64 by a reference library", async () => {
    const writer = new ZipWriter(new Uint8ArrayWriter(), { zip64: true, extendedTimestamp: true });
    await writer.add("Fernweh/lines.txt", new Uint8ArrayReader(new Uint8Array(LINES)), { lastModDate: MOMENT });
    const { all } = await entries(await writer.close());
    expect(all).toMatchObject([{ path: "/Fernweh/lines.txt", size: LINES.length, modified: MOMENT.getTime(), crc: crc32(LINES) }]);
  });

  test("a check sum that does not come out makes damaged, and only that one", async () => {
    const bytes = zipped.slice();
    const { all } = await entries(zipped);
    const bin = all.find(({ path }) => path.endsWith(".bin"));
    bytes[(bin?.extents[0].offset ?? 0) + 40_000] ^= 1;
    const conditions = inside(await scanned(cardOf({ "plain.zip": bytes }).source())).map(({ name, condition }) => [name, condition]);
    expect(Object.fromEntries(conditions)).toEqual({
      "poster.png": "whole",
      "lines.txt": "whole",
      "Übersicht.bin": "damaged",
      "empty.txt": "whole",
    });
  });

  test("what needs a password says so, and nothing of it is given out", async () => {
    const encrypted = await packBackup(Buffer.from(tarred), { passphrase: "moon rig" });
    const outcome = await scanned(cardOf({ "locked.zip": locked, "locked.ab": encrypted }).source());
    expect(inside(outcome)).toMatchObject([{ condition: "remnant", because: expect.stringContaining("password"), extents: [] }]);
    expect(outcome.troubles.map(({ what }) => what)).toEqual([expect.stringContaining("/locked.ab: it is encrypted")]);
  });

  test("a quick scan takes the archive's word", async () => {
    const outcome = await scanned(cardOf({ "plain.zip": zipped }).source(), { depth: "quick", hashed: false });
    expect(inside(outcome)).toHaveLength(4);
    expect(inside(outcome).every(({ checked, because }) => !checked && because.includes("quick scan"))).toBe(true);
  });

  test("broken off after any batch and gone on with, it tells the same once", async () => {
    const many = Array.from({ length: 150 }, (_, index) => `note ${index}.txt`);
    for (const name of many) writeFileSync(join(folder, name), `${name} ${"x".repeat(index(name))}`);
    inFolder("zip", "many.zip", ...many);
    const source = cardOf({ "many.zip": made("many.zip"), "phone.ab": backup }).source();
    const whole = await scanned(source);
    expect(inside(whole).length).toBeGreaterThan(150);
    let stopped = 0;
    for (let stopAfter = 1; stopAfter < whole.batches; stopAfter++) {
      const broken = await scanned(source, { stopAfter });
      if (broken.last.checkpoint.pass !== "archives") continue;
      stopped++;
      const ended = await scanned(source, { resume: broken });
      expect([...ended.finds.values()]).toEqual([...whole.finds.values()]);
      expect(ended.records.length).toBe(whole.records.length);
    }
    expect(stopped).toBeGreaterThan(3);
  });
});
const index = (name: string): number => Number(/\d+/.exec(name)?.[0]);

/** One entry of a made-up archive. */
function header(name: string, packed: Uint8Array, size: number, crc = 0): Uint8Array {
  const head = Buffer.alloc(LocalHeader.size + name.length);
  head.write("PK\x03\x04", 0, "latin1");
  head.writeUInt16LE(8, LocalHeader.method.at);
  head.writeUInt32LE(crc, LocalHeader.crc32.at);
  head.writeUInt32LE(packed.length, LocalHeader.compressedSize.at);
  head.writeUInt32LE(size, LocalHeader.uncompressedSize.at);
  head.writeUInt16LE(name.length, LocalHeader.nameLength.at);
  head.write(name, LocalHeader.size);
  return joined(head, packed);
}

describe("archives made to hurt", () => {
  test("gigabytes of zeros in a few bytes are not unpacked", async () => {
    const bomb = header("bomb.txt", deflateRawSync(Buffer.alloc(1_000_000)), 4_000_000_000);
    const [find] = inside(await scanned(cardOf({ "bomb.zip": joined(bomb, new Uint8Array(22)) }).source()));
    expect(find).toMatchObject({ condition: "remnant", because: expect.stringContaining("made to fill the disk") });
  });

  test("entries that all lead to the same bytes are left", async () => {
    const central = Buffer.from(zipped).indexOf("PK\x01\x02", 0, "latin1");
    const place = Buffer.from(zipped).indexOf(Buffer.from("tour/Ü"), central) - CentralHeader.size;
    const one = zipped.subarray(place, Buffer.from(zipped).indexOf("PK", place + 4, "latin1"));
    const end = Buffer.alloc(EndRecord.size);
    end.write("PK\x05\x06", 0, "latin1");
    end.writeUInt16LE(60_000, EndRecord.entries.at);
    end.writeUInt32LE(central, EndRecord.directoryOffset.at);
    const bytes = joined(zipped.subarray(0, central), ...Array.from({ length: 2000 }, () => one), end);
    const outcome = await scanned(cardOf({ "same.zip": bytes }).source(), { hashed: false });
    expect(inside(outcome).length).toBeLessThan(60);
    expect(outcome.troubles.map(({ what }) => what)).toEqual([expect.stringContaining("share their bytes")]);
  });

  test("names that lead out of the archive lead nowhere", async () => {
    const { all } = await entries(header("../../etc/passwd", deflateRawSync(LINES), LINES.length));
    expect(all.map(({ path }) => path)).toEqual(["/etc/passwd"]);
  });

  test.each(["zip", "tar", "gzip", "app backup"] as const)(
    "%s with broken bytes: no crash, nothing endless, nothing outside",
    async (how) => {
      const random = seeded(12);
      const sound = { zip: zipped, tar: tarred, gzip: gzipSync(tarred), "app backup": backup.subarray(0, 40_000) }[how];
      for (let round = 0; round < 120; round++) {
        const bytes = new Uint8Array(sound.slice(0, round % 5 === 0 ? Math.floor(random() * sound.length) : sound.length));
        for (let change = 0; change < 1 + (round % 6); change++)
          bytes[Math.floor(random() * bytes.length)] = [0, 0xff, 0x7f, Math.floor(random() * 256)][change % 4];
        const { all } = await entries(bytes, how);
        for (const { extents } of all) for (const { offset, length } of extents) expect(offset + length).toBeLessThanOrEqual(bytes.length);
      }
    },
  );
});
