import "fake-indexeddb/auto";
import Dexie from "dexie";
import { beforeEach, expect, test, vi } from "vitest";
import { unknownFacts } from "../../core/triage/facts.ts";
import { blankIntake } from "../../core/triage/intake.ts";
import { oldDatabase, restoreDatabase } from "../../test/old-database.ts";
import { noCounts } from "./kept-scan.ts";

beforeEach(async () => {
  vi.resetModules();
  await Dexie.delete("jubar");
});

/** A job as version 1 of the database kept it. */
const OLD_JOB = {
  number: "0101",
  customer: "Ilse Marwitz",
  device: "Corvane Siskin 3",
  wants: "photos 2–9 May, the Lantern poster",
  createdAt: 1,
  touchedAt: 2,
  source: { kind: "file", name: "card.img", size: 100, sample: "00" },
  scan: {
    status: "new",
    depth: "deep",
    counts: noCounts(),
    unreadable: [],
    volumes: [],
    troubles: [],
    seconds: 0,
    because: null,
    progress: { pass: "listing", done: 0, total: 0 },
    checkpoint: { pass: "listing", at: 0 },
  },
  tray: ["e1"],
  handedOver: null,
};

test("a job kept by version 1 is opened with its wants as an intake, its storage as its first medium, and nothing else changed", async () => {
  const old = new Dexie("jubar");
  old.version(1).stores({ jobs: "++id, touchedAt", chunks: "[job+number], job" });
  const id = Number(await old.table("jobs").add(OLD_JOB));
  old.close();
  const { loadJob, loadMedia, database } = await import("./database.ts");
  const { wants: _, source, scan: __, ...kept } = OLD_JOB;
  const want = (words: string) => ({ kind: "any kind", from: null, to: null, who: "", words });
  const [medium] = await loadMedia(id);
  expect(medium).toMatchObject({ kind: "image", name: "card.img", source, scan: { status: "new" } });
  expect(await loadJob(id)).toEqual({
    ...kept,
    id,
    intake: { ...blankIntake(), wants: [want("photos 2–9 May"), want("the Lantern poster")] },
    facts: unknownFacts(),
    tray: [`${medium.id}:e1`],
    phone: null,
    ledger: [],
    joins: [],
  });
  database.close();
});

test("a browser's database of version 3, as it was dumped: tickets, finds, trays, copies and scans are all carried over", async () => {
  const dump = oldDatabase(3);
  await restoreDatabase(dump);
  const { loadJob, loadMedia, loadPart, database } = await import("./database.ts");
  const old = dump.tables.jobs as {
    id: number;
    tray: string[];
    scan: Record<string, unknown>;
    source: { name: string; kind: string; size: number; sample: string } | null;
    number: string;
  }[];
  expect(old.length).toBe(4);
  for (const before of old) {
    const job = await loadJob(before.id);
    const media = await loadMedia(before.id);
    const { tray: _, scan: __, source: ___, ...same } = before;
    expect(job).toMatchObject(same);
    expect(media.map(({ name }) => name)).toEqual(before.source ? [before.source.name] : []);
    expect(job?.tray).toEqual(before.tray.map((find) => `${media[0]?.id}:${find}`));
    for (const { id, scan, source } of media) {
      const { kind, name, size, sample } = before.source ?? { kind: "", name: "", size: 0, sample: "" };
      expect(source).toMatchObject({ kind, name, size, sample });
      expect(scan.counts).toEqual(before.scan.counts);
      // What was broken off is gone on with from its beginning, over what it found.
      expect(scan.status).toBe(before.scan.status === "done" ? "done" : "stopped");
      const kept = (dump.tables.chunks as { job: number; finds: { id: string }[] }[]).filter((chunk) => chunk.job === before.id);
      const packs = await database.packs.where("medium").equals(id).toArray();
      expect(packs.flatMap(({ finds }) => finds)).toEqual(kept.flatMap(({ finds }) => finds));
    }
  }
  const [copy] = dump.tables.copies as { job: number; size: number; mark: unknown; members: unknown; sha256: string; part: unknown }[];
  const [medium] = await loadMedia(copy.job);
  expect(medium).toMatchObject({ kind: "shared storage", sha256: copy.sha256, phone: { serial: "PRACTICE-01" } });
  const part = await loadPart(medium.id);
  const { part: which, size, mark, members, sha256 } = copy;
  expect(part).toMatchObject({ job: copy.job, part: which, size, mark, members, sha256, status: "done" });
  // The copy lies where it lay.
  expect(part?.place).toEqual({ kind: "browser", file: `working-copy-${copy.job}.bin` });
  expect(database.tables.map(({ name }) => name)).not.toContain("chunks");
  expect(await database.keys.count()).toBe(1);
  database.close();
});

test("a sweep that version 5 left in its middle goes on where each of its detectors stood", async () => {
  const { newScan } = await import("./kept-scan.ts");
  const scan = newScan();
  const old = new Dexie("jubar");
  old.version(5).stores({ jobs: "++id, touchedAt", media: "++id, job" });
  const sweep = { done: 8192, busyTo: 5000, pagesTo: 4096, textTo: 6000, dug: [512, 4096] };
  const checkpoint = { ...scan.checkpoint, pass: "sweep", at: 8192, sweep };
  const medium = {
    job: 1,
    kind: "image",
    name: "card.img",
    source: { kind: "file", name: "card.img", size: 100, sample: "00" },
    owner: "",
  };
  await old.table("media").add({ ...medium, scan: { ...scan, status: "stopped", checkpoint } });
  old.close();
  const { database } = await import("./database.ts");
  const [kept] = await database.media.toArray();
  const { Checkpoint } = await import("../../core/scan/checkpoint.ts");
  expect(Checkpoint.parse(kept.scan?.checkpoint).sweep).toEqual({
    done: 8192,
    detectors: {
      checked: { busyTo: 5000, kept: [] },
      pages: { busyTo: 4096, kept: [] },
      followed: { busyTo: 6000, kept: [] },
      lists: { busyTo: 0, kept: [512, 4096] },
    },
  });
  database.close();
});
