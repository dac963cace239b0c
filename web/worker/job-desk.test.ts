import "fake-indexeddb/auto";
import { beforeEach, expect, test, vi } from "vitest";
import { EVERYTHING } from "../../core/finds/find-index.ts";
import { practiceBytes } from "../../test/scanning.ts";
import { addJob, database, loadJob } from "../kept/database.ts";
import { blankJob, type ScanRecord } from "../kept/job.ts";
import { JobDesk } from "./job-desk.ts";
import { openGrant, sampleOf } from "./open-grant.ts";
import type { News } from "./protocol.ts";

const card = new File([practiceBytes() as BlobPart], "theatre-card.img");
const grant = { kind: "file", file: card } as const;
/** Finds of the whole card, and what its lists alone speak of. */
const ALL = 73;

async function newJob(): Promise<number> {
  const source = { kind: "file", name: card.name, size: card.size, sample: await sampleOf(await openGrant(grant)) } as const;
  return addJob({ ...blankJob(), source });
}

/** A desk as a page opens it, with the latest news it told. */
async function desk(job: number) {
  const opened = new JobDesk();
  let latest: ScanRecord | null = null;
  const heard: News[] = [];
  await opened.open(job, (news) => {
    heard.push(news);
    latest = structuredClone(news.scan);
  });
  const until = (status: ScanRecord["status"]) => vi.waitFor(() => expect(latest?.status).toBe(status), { timeout: 20_000, interval: 5 });
  return { desk: opened, until, heard };
}
const total = (opened: JobDesk): number => opened.ask(EVERYTHING).total;

beforeEach(async () => {
  await database.jobs.clear();
  await database.chunks.clear();
});

test("a quick scan, then the deep one on top of it: counts, map and what is kept agree", async () => {
  const job = await newJob();
  const { desk: bench, until, heard } = await desk(job);
  expect(await bench.attach(grant)).toEqual({ ok: true });
  expect(await bench.start("quick")).toEqual({ ok: true });
  await until("done");
  const quick = total(bench);
  expect(quick).toBeGreaterThan(50);
  await bench.start("deep");
  await until("running");
  await until("done");
  expect(total(bench)).toBe(ALL);
  const kept = await loadJob(job);
  expect(kept?.scan).toMatchObject({ status: "done", depth: "deep", checkpoint: { pass: "done" } });
  expect(Object.values(kept?.scan.counts ?? {}).reduce((sum, { present, binned, erased }) => sum + present + binned + erased, 0)).toBe(ALL);
  const map = heard.at(-1)?.map;
  expect(map?.lamp).toBeNull();
  expect([...(map?.strokes ?? [])].reduce((sum, strokes) => sum + strokes, 0)).toBeGreaterThan(35);
});

test("paused, it waits; another desk (a reload) goes on from what is kept, to the same finds", async () => {
  const job = await newJob();
  const first = await desk(job);
  await first.desk.attach(grant);
  await first.desk.start("deep");
  first.desk.pause();
  await first.until("paused");
  const told = first.heard.length;
  await new Promise((later) => setTimeout(later, 150));
  expect(first.heard.length).toBe(told);
  const kept = await loadJob(job);
  expect(kept?.scan.status).toBe("paused");

  const second = await desk(job);
  const before = total(second.desk);
  expect(before).toBe(total(first.desk));
  await second.desk.attach(grant);
  await second.desk.start("deep");
  await second.until("done");
  expect(total(second.desk)).toBe(ALL);
});

test("stopped, it keeps what it has; scanning again begins anew", async () => {
  const job = await newJob();
  const { desk: bench, until } = await desk(job);
  await bench.attach(grant);
  await bench.start("deep");
  bench.stop();
  await until("stopped");
  const some = total(bench);
  expect(some).toBeLessThan(ALL);
  await bench.start("deep");
  await until("done");
  expect(total(bench)).toBe(ALL);
  await bench.start("deep");
  await until("running");
  await until("done");
  expect(total(bench)).toBe(ALL);
});

test("another file is refused by what is in it; nothing is started without storage", async () => {
  const job = await newJob();
  const { desk: bench } = await desk(job);
  expect(await bench.start("deep")).toMatchObject({ ok: false });
  const changed = practiceBytes();
  changed[0] ^= 1;
  for (const file of [new File([changed as BlobPart], card.name), new File(["short"], card.name)])
    expect(await bench.attach({ kind: "file", file })).toEqual({
      ok: false,
      because: "This is not the storage of this ticket: that was theatre-card.img with 50,331,648 bytes.",
    });
});

test("a card that is pulled out in mid-scan: said so, nothing called unreadable for it, and gone on with when it is back", async () => {
  const job = await newJob();
  const { desk: bench, until } = await desk(job);
  let pulled = false;
  let reads = 0;
  const file = new File([practiceBytes() as BlobPart], card.name);
  const slice = file.slice.bind(file);
  file.slice = (from?: number, to?: number) => {
    // The sample and the lists are read; then the reader is pulled out.
    if (++reads === 60) pulled = true;
    return pulled ? ({ arrayBuffer: () => Promise.reject(new Error("the reader is gone")) } as unknown as Blob) : slice(from, to);
  };
  await bench.attach({ kind: "file", file });
  await bench.start("deep");
  await until("failed");
  const kept = await loadJob(job);
  expect(kept?.scan).toMatchObject({ because: "theatre-card.img does not answer any more.", unreadable: [] });
  expect(total(bench)).toBeGreaterThan(20);
  pulled = false;
  await bench.start("deep");
  await until("done");
  expect(total(bench)).toBe(ALL);
}, 60_000);

/** The browser's database refuses to take more, as a full disk makes it, from so many writes on. */
function fullAfter(writes: number): () => void {
  const put = IDBObjectStore.prototype.put;
  let done = 0;
  const spy = vi.spyOn(IDBObjectStore.prototype, "put").mockImplementation(function (this: IDBObjectStore, ...given) {
    if (done++ >= writes) throw new DOMException("no room", "QuotaExceededError");
    return put.apply(this, given);
  });
  return () => spy.mockRestore();
}

test.each([
  ["at once", 0],
  ["in mid-scan", 2],
])(
  "the browser's storage is full %s: said so, and gone on with from there once there is room",
  async (_, writes) => {
    const job = await newJob();
    const { desk: bench, until, heard } = await desk(job);
    await bench.attach(grant);
    const makeRoom = fullAfter(writes);
    await bench.start("deep");
    await until("failed");
    expect(heard.at(-1)?.scan.because).toBe("There is no room left in this browser's storage: free some, then go on.");
    makeRoom();
    await bench.start("deep");
    await until("done");
    expect(total(bench)).toBe(ALL);
    // All of it is written, not only what came after.
    const { desk: again } = await desk(job);
    expect(total(again)).toBe(ALL);
    const kept = await loadJob(job);
    expect(kept?.scan).toMatchObject({ status: "done", because: null });
  },
  60_000,
);

test("a page that is closed while the storage is full goes on from what was kept before", async () => {
  const job = await newJob();
  const first = await desk(job);
  await first.desk.attach(grant);
  await first.desk.start("quick");
  await first.until("done");
  const makeRoom = fullAfter(0);
  await first.desk.start("deep");
  await first.until("failed");
  makeRoom();
  const second = await desk(job);
  expect(total(second.desk)).toBeGreaterThan(50);
  await second.desk.attach(grant);
  await second.desk.start("deep");
  await second.until("done");
  expect(total(second.desk)).toBe(ALL);
}, 60_000);

test("windows of rows, sums of a tray and the place of a find in the answer", async () => {
  const { desk: bench, until } = await desk(await newJob());
  await bench.attach(grant);
  await bench.start("deep");
  await until("done");
  const answer = bench.ask({ ...EVERYTHING, states: ["erased"], conditions: ["damaged", "remnant"], sort: "name" });
  const rows = await bench.window(0, 500);
  expect(rows.length).toBe(answer.total);
  const ids = bench.answerIds();
  expect(ids).toEqual(rows.map(({ id }) => id));
  expect(bench.placeInAnswer(ids[3])).toBe(3);
  expect(bench.placeInAnswer("nobody")).toBe(-1);
  expect(bench.sumOf([...ids, "nobody"])).toEqual({
    count: rows.length,
    bytes: rows.reduce((sum, { size }) => sum + size, 0),
    kinds: { photo: rows.filter(({ kind }) => kind === "photo").length, audio: rows.filter(({ kind }) => kind === "audio").length },
    damaged: rows.length,
  });
  expect(answer.groups).toBeNull();
});
