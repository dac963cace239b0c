import { EVERYTHING_THERE } from "../../core/scan/scope.ts";
import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, test } from "vitest";
import { EVERYTHING } from "../../core/finds/find-query.ts";
import { live, NEVER, nothingKept, seen } from "../../test/breaks.ts";
import { practiceBytes, practiceCard } from "../../test/scanning.ts";
import { addMedium, cardFile, emptyDatabase, fullAfter, keptFinds, Tab, ticketOf } from "../../test/tab.ts";
import { installBrowser } from "../../test/web-locks.ts";
import { database, loadJob, loadMedium } from "../kept/database.ts";
import { findsIn } from "../kept/kept-scan.ts";
import { Ownership } from "../kept/ownership.ts";
import { removeJob } from "../kept/removal.ts";
import { PlaceLink } from "../worker/storage/place-link.ts";

installBrowser();

/** Finds of the whole practice card. */
const ALL = 73;
const tabs: Tab[] = [];
const open = async (job: number): Promise<Tab> => {
  const tab = await Tab.open(job);
  tabs.push(tab);
  return tab;
};
beforeEach(emptyDatabase);
afterEach(async () => {
  for (const tab of tabs.splice(0)) await tab.close();
});
const DEEP = { depth: "deep", ...EVERYTHING_THERE } as const;
const QUICK = { depth: "quick", ...EVERYTHING_THERE } as const;
const PHOTOS = { depth: "deep", kinds: ["photo"], erasedOnly: false } as const;
const unbroken = await live(practiceCard(), DEEP, nothingKept(DEEP), NEVER);
/** What is kept of a medium agrees with a scan that was never broken: finds, conditions, evidence, counts. */
async function expectWhole(medium: number): Promise<void> {
  const finds = await keptFinds(medium);
  const row = await loadMedium(medium);
  const wanted = seen(unbroken.kept);
  const got = seen({ ...unbroken.kept, finds, besides: new Set() });
  expect(Object.keys(got.finds)).toEqual(Object.keys(wanted.finds));
  expect(got.finds).toEqual(wanted.finds);
  expect(findsIn(row?.scan.counts ?? ({} as never))).toBe(ALL);
  expect(row?.scan).toMatchObject({ status: "done", because: null, checkpoint: { pass: "done" } });
}

test("a scan from its beginning to its end: what is shown, what is kept and what filters answer agree", async () => {
  const { job, media } = await ticketOf(cardFile());
  const tab = await open(job);
  const { session } = tab;
  expect(session.store.getState().media[0].storage).toBe("open");
  await session.start(DEEP);
  await tab.until(media[0], "done");
  await expectWhole(media[0]);
  await session.ask({ states: ["erased"] });
  const answer = session.store.getState().answer;
  expect(answer?.total).toBe([...(await keptFinds(media[0])).values()].filter(({ state }) => state === "erased").length);
  expect(session.store.getState().media[0].worked).toBe("nowhere");
});

test("two beginnings at once are one scan; pause and go on, stop and start at once leave it running", async () => {
  const { job, media } = await ticketOf(cardFile());
  const tab = await open(job);
  const desk = tab.session.medium(media[0]);
  await Promise.all([desk?.start(DEEP), desk?.start(DEEP)]);
  desk?.pause();
  await desk?.start(DEEP);
  desk?.stop();
  await desk?.start(DEEP);
  await tab.until(media[0], "done");
  await expectWhole(media[0]);
});

test("paused, nothing is read or told any more; another page goes on from what is kept, to the same end", async () => {
  const { job, media } = await ticketOf(cardFile());
  const first = await open(job);
  await first.session.start(DEEP);
  first.session.inHand?.pause();
  await first.until(media[0], "paused");
  const kept = await loadMedium(media[0]);
  expect(kept?.scan.status).toBe("paused");
  await new Promise((later) => setTimeout(later, 150));
  expect((await loadMedium(media[0]))?.scan).toEqual(kept?.scan);
  await first.close();
  const second = await open(job);
  expect(second.scan(media[0]).status).toMatch(/paused|stopped/);
  await second.session.start(DEEP);
  await second.until(media[0], "done");
  await expectWhole(media[0]);
});

test("deep after quick is deep alone: what quick found stays until it is told anew, and then is what deep says", async () => {
  const { job, media } = await ticketOf(cardFile());
  const tab = await open(job);
  await tab.session.start(QUICK);
  await tab.until(media[0], "done");
  const quick = await keptFinds(media[0]);
  expect(quick.size).toBeGreaterThan(40);
  await tab.session.choose(
    [...quick.keys()].slice(0, 3).map((id) => `${media[0]}:${id}`),
    true,
  );
  await tab.session.start(DEEP);
  await tab.until(media[0], "running");
  await tab.session.ask({});
  expect(tab.session.store.getState().answer?.total).toBeGreaterThanOrEqual(quick.size);
  await tab.until(media[0], "done");
  await expectWhole(media[0]);
  expect(tab.session.store.getState().traySum.count).toBe(3);
  await tab.session.ask({});
  expect(tab.session.store.getState().answer?.total).toBe(ALL);
});

test("narrowed to photos it shows those alone; the rest goes over what was left, chosen things stay, and a narrow scan in its midst is ended first", async () => {
  const { job, media } = await ticketOf(cardFile(), cardFile());
  const tab = await open(job);
  const photos = Object.values(seen(unbroken.kept).finds).filter(({ kind }) => kind === "photo");
  await tab.session.start(PHOTOS);
  await tab.until(media[0], "done");
  await tab.session.ask({});
  expect(tab.session.store.getState().answer?.total).toBe(photos.length);
  expect(findsIn(tab.scan(media[0]).counts)).toBe(photos.length);
  await tab.session.choose([`${media[0]}:${photos[0].id}`], true);
  await tab.session.start(DEEP);
  await tab.until(media[0], "running");
  await tab.until(media[0], "done");
  await expectWhole(media[0]);
  await tab.session.ask({});
  expect(tab.session.store.getState().answer?.total).toBe(ALL);
  expect(tab.session.store.getState().traySum.count).toBe(1);
  expect((await database.packs.toArray()).every(({ hidden }) => hidden.length === 0)).toBe(true);
  const second = tab.session.medium(media[1]);
  await second?.start(PHOTOS);
  await tab.until(media[1], "running");
  second?.stop();
  await tab.until(media[1], "stopped");
  await second?.start(DEEP);
  await tab.until(media[1], "done");
  await expectWhole(media[1]);
});

test("a database that takes nothing more: held, with the reason; nothing is forgotten, and it goes on when told", async () => {
  const { job, media } = await ticketOf(cardFile());
  const tab = await open(job);
  const makeRoom = fullAfter(6);
  await tab.session.start(DEEP);
  const held = await tab.until(media[0], "held");
  expect(held.because).toBe("There is no room left in this browser's storage: free some, then go on.");
  await tab.session.start(DEEP);
  await new Promise((later) => setTimeout(later, 30));
  expect(tab.scan(media[0]).status).toBe("held");
  makeRoom();
  await tab.session.start(DEEP);
  await tab.until(media[0], "done");
  await expectWhole(media[0]);
});

test("one that takes nothing at all: nothing begins, and the ticket says why", async () => {
  const { job, media } = await ticketOf(cardFile());
  const tab = await open(job);
  const makeRoom = fullAfter(0);
  await tab.session.start(DEEP);
  expect(tab.session.store.getState().media[0].problem).toMatch(/no room left/);
  expect(tab.scan(media[0]).status).toBe("new");
  makeRoom();
  await tab.session.start(DEEP);
  await tab.until(media[0], "done");
  await expectWhole(media[0]);
});

test("writes that fail one after the other, each for another reason: the end is that of a scan that was never broken", async () => {
  for (const fails of [1, 4, 9]) {
    await emptyDatabase();
    const { job, media } = await ticketOf(cardFile());
    const tab = await open(job);
    const restore = fullAfter(fails, () => new DOMException("the disk failed", "UnknownError"));
    await tab.session.start(DEEP);
    const ended = await Promise.race([tab.until(media[0], "held"), tab.until(media[0], "done")]);
    restore();
    if (ended.status === "held") {
      expect(ended.because).toContain("the disk failed");
      await tab.session.start(DEEP);
      await tab.until(media[0], "done");
    }
    await expectWhole(media[0]);
    await tab.close();
  }
});

test("a page that is closed while nothing can be kept goes on from what was kept before", async () => {
  const { job, media } = await ticketOf(cardFile());
  const first = await open(job);
  const makeRoom = fullAfter(6);
  await first.session.start(DEEP);
  await first.until(media[0], "held");
  makeRoom();
  // Gone, without a word: nothing of what it still had was kept.
  const second = await open(job);
  await second.session.start(DEEP);
  expect(second.session.store.getState().media[0].worked).toBe("elsewhere");
  await second.session.start(DEEP, true);
  await second.until(media[0], "done");
  await expectWhole(media[0]);
});

test("a card that is pulled out in mid-scan: said so, nothing called unreadable for it, and gone on with when it is back", async () => {
  const file = cardFile();
  let pulled = false;
  let reads = 0;
  const slice = file.slice.bind(file);
  file.slice = (from?: number, to?: number) => {
    // The samples and the lists are read; then the reader is pulled out.
    if (++reads === 90) pulled = true;
    return pulled ? ({ arrayBuffer: () => Promise.reject(new Error("the reader is gone")) } as unknown as Blob) : slice(from, to);
  };
  const { job, media } = await ticketOf(file);
  const tab = await open(job);
  await tab.session.start(DEEP);
  const failed = await tab.until(media[0], "failed");
  expect(failed).toMatchObject({ because: "theatre-card.img does not answer any more.", unreadable: [] });
  expect((await keptFinds(media[0])).size).toBeGreaterThan(10);
  pulled = false;
  await tab.session.start(DEEP);
  await tab.until(media[0], "done");
  await expectWhole(media[0]);
});

test("a second tab watches, filters what is kept, and takes over; what the first one still writes does not land", async () => {
  const { job, media } = await ticketOf(cardFile());
  const first = await open(job);
  await first.session.start(DEEP);
  first.session.inHand?.pause();
  await first.until(media[0], "paused");
  const second = await open(job);
  expect(second.session.store.getState().media[0].worked).toBe("elsewhere");
  await second.session.ask({});
  expect(second.session.store.getState().answer?.total).toBe((await keptFinds(media[0])).size);
  // Not by itself.
  await second.session.start(DEEP);
  expect(second.session.store.getState().media[0].worked).toBe("elsewhere");
  await second.session.start(DEEP, true);
  await first.session.start(DEEP);
  await second.until(media[0], "done");
  await expectWhole(media[0]);
  await new Promise((later) => setTimeout(later, 60));
  expect(first.session.store.getState().media[0].worked).not.toBe("here");
  expect((await loadMedium(media[0]))?.owner).toBe(2);
});

test("a tab that watches hears how the scan goes on, and that it is free when the other tab lets go", async () => {
  const { job, media } = await ticketOf(cardFile());
  const [first, second] = [await open(job), await open(job)];
  await first.session.start(DEEP);
  await first.until(media[0], "done");
  await second.until(media[0], "done");
  expect(second.scan(media[0]).counts).toEqual(first.scan(media[0]).counts);
  await second.session.ask({});
  expect(second.session.store.getState().answer?.total).toBe(ALL);
  await first.session.start(QUICK);
  first.session.inHand?.pause();
  await first.until(media[0], "paused");
  await first.close();
  await expect.poll(() => second.session.store.getState().media[0].worked).toBe("nowhere");
  await second.session.start(DEEP);
  await second.until(media[0], "done");
  await expectWhole(media[0]);
});

test("a ticket that is removed in mid-scan: its work ends, and nothing of it is left or comes back", async () => {
  const { job, media } = await ticketOf(cardFile(), cardFile("other.img", practiceBytes().slice(0, 12 * 1024 * 1024)));
  const tab = await open(job);
  for (const id of media) await tab.session.medium(id)?.start(DEEP);
  await expect.poll(async () => (await database.packs.count()) > 0).toBe(true);
  await removeJob(job);
  await new Promise((later) => setTimeout(later, 300));
  for (const table of ["jobs", "media", "packs", "places", "hashes", "parts"]) expect(await database.table(table).count(), table).toBe(0);
  // A tab that still shows it says so.
  expect(tab.session.store.getState().job).toBeNull();
});

test("two media of one ticket: scanned at once, told apart, one set aside, one taken out", async () => {
  const cut = practiceBytes().slice(0, 20 * 1024 * 1024);
  const { job, media } = await ticketOf(cardFile(), cardFile("backup.img", cut));
  const tab = await open(job);
  await Promise.all(media.map((id) => tab.session.medium(id)?.start(DEEP)));
  for (const id of media) await tab.until(id, "done");
  await expectWhole(media[0]);
  const other = (await keptFinds(media[1])).size;
  await tab.session.ask({});
  // What is kept is known a moment before what is kept of it is read.
  const found = () => [...(tab.session.store.getState().answer?.media ?? [])].sort();
  await expect.poll(found).toEqual([
    [media[0], ALL],
    [media[1], other],
  ]);
  await tab.session.ask({ media: [media[1]] });
  expect(tab.session.store.getState().answer?.total).toBe(other);
  const keys = tab.index.answerKeys();
  expect(new Set(keys.map((key) => key.split(":")[0]))).toEqual(new Set([`${media[1]}`]));
  await tab.session.choose([keys[0], `${media[0]}:${[...(await keptFinds(media[0])).keys()][0]}`], true);
  await tab.session.ask({ media: [] });
  const chosen = () => tab.session.store.getState().traySum.count;
  expect(chosen()).toBe(2);
  await tab.session.setAside(media[1], true);
  expect(tab.index.ask(EVERYTHING).total).toBe(ALL);
  expect(chosen()).toBe(1);
  await tab.session.setAside(media[1], false);
  // What is kept of it may be read a moment later, on a machine that is busy.
  await expect.poll(() => tab.index.ask(EVERYTHING).total).toBe(ALL + other);
  await expect.poll(chosen).toBe(2);
  await tab.session.removeMedium(media[1]);
  await expect.poll(async () => tab.index.ask(EVERYTHING).total).toBe(ALL);
  expect((await loadJob(job))?.tray.length).toBe(1);
  expect(tab.session.store.getState().media.map(({ medium }) => medium.id)).toEqual([media[0]]);
});

test("what was compared is one thing in two places, in every tab and after a reload", async () => {
  const { job, media } = await ticketOf(cardFile(), cardFile("copy of it.img"));
  const tab = await open(job);
  for (const id of media) {
    await tab.session.medium(id)?.start(QUICK);
    await tab.until(id, "done");
  }
  const [one, two] = [(await keptFinds(media[0])).size, (await keptFinds(media[1])).size];
  expect(one).toBe(two);
  // By itself, once all scans are done.
  await expect.poll(() => tab.index.ask(EVERYTHING).total).toBeLessThan((one + two) * 0.6);
  await expect.poll(() => tab.index.twins().length).toBeLessThan(one * 0.4);
  const together = tab.index.ask(EVERYTHING).total;
  const [first] = await tab.index.window(0, 1);
  const twin = await tab.index.find(first.places[0]);
  expect(twin).toMatchObject({ size: first.size, id: first.id });
  const again = await open(job);
  await expect.poll(() => again.index.ask(EVERYTHING).total - tab.index.ask(EVERYTHING).total).toBe(0);
  expect(again.index.ask(EVERYTHING).total).toBeLessThanOrEqual(together);
});

test("another file is refused by what is in it; without storage nothing is started", async () => {
  const { job, media } = await ticketOf(cardFile());
  const changed = practiceBytes();
  changed[0] ^= 1;
  const tab = await open(job);
  for (const file of [cardFile("theatre-card.img", changed), cardFile("theatre-card.img", practiceBytes().slice(0, 70_000))]) {
    await tab.session.giveAgain(media[0], { kind: "file", file });
    expect(tab.session.store.getState().media[0].problem).toBe(
      "This is not the storage of this ticket: that was theatre-card.img with 50,331,648 bytes.",
    );
  }
  const { job: bare } = await ticketOf();
  const empty = await open(bare);
  await empty.session.start(DEEP);
  expect(empty.session.store.getState().media).toEqual([]);
});

test("tickets are numbered on, whatever was removed; one that is not there says so", async () => {
  const ids = [(await ticketOf()).job, (await ticketOf()).job];
  expect(await Promise.all(ids.map(async (id) => (await loadJob(id))?.number))).toEqual(["0101", "0102"]);
  await removeJob(ids[0]);
  const { job } = await ticketOf();
  expect((await loadJob(job))?.number).toBe("0103");
  const tab = await open(999);
  expect(tab.session.store.getState()).toMatchObject({ job: null, problem: null });
});

test("a pack that is no longer understood is an error, not a silent loss", async () => {
  const { job, media } = await ticketOf(cardFile());
  await database.packs.put({ medium: media[0], number: 0, finds: [{ id: 7 } as never], hidden: [] });
  const tab = await open(job);
  expect(tab.session.store.getState().job).toBeNull();
  expect(tab.session.store.getState().problem).toMatch(/^This ticket cannot be opened/);
});

test("a choice and an answer in one tab are known in the other", async () => {
  const { job, media } = await ticketOf(cardFile());
  const [first, second] = [await open(job), await open(job)];
  await first.session.start(QUICK);
  await first.until(media[0], "done");
  const [key] = await first.index.findsOf([`${media[0]}:${[...(await keptFinds(media[0])).keys()][0]}`]);
  await first.session.choose([key.key], true);
  first.session.changeIntake({ contact: "Ana Dorin" });
  await expect.poll(() => second.session.store.getState().tray.size).toBe(1);
  await expect.poll(() => second.session.job?.intake.contact).toBe("Ana Dorin");
  const added = await addMedium(job, cardFile("late.img", practiceBytes().slice(0, 12 * 1024 * 1024)));
  await first.session.setAside(added, false);
  await expect.poll(() => second.session.store.getState().media.length).toBe(2);
});

test("a volume that only a deep scan finds is found by a deep one after a quick one too, with all that lies in it", async () => {
  // The practice card behind 3 MB that no table explains: nothing lies at a usual place.
  const hidden = new Uint8Array(3 * 1024 * 1024 + 7 * 512 + 40 * 1024 * 1024);
  hidden.set(practiceBytes().subarray(1024 * 1024, 41 * 1024 * 1024), 3 * 1024 * 1024 + 7 * 512);
  const { job, media } = await ticketOf(cardFile("hidden.img", hidden), cardFile("hidden too.img", hidden));
  const tab = await open(job);
  await tab.session.medium(media[0])?.start(QUICK);
  expect((await tab.until(media[0], "done")).volumes).toEqual([]);
  await tab.session.medium(media[0])?.start(DEEP);
  await tab.session.medium(media[1])?.start(DEEP);
  const [after, alone] = [await tab.until(media[0], "done"), await tab.until(media[1], "done")];
  expect(after.depth).toBe("deep");
  expect(alone.volumes.length).toBe(1);
  expect(after.volumes).toEqual(alone.volumes);
  expect(after.counts).toEqual(alone.counts);
  const [one, two] = [await keptFinds(media[0]), await keptFinds(media[1])];
  expect([...one.values()]).toEqual([...two.values()]);
  expect(one.size).toBeGreaterThan(30);
});

test("what a tab whose lock was stolen still writes does not land", async () => {
  const { media } = await ticketOf(cardFile());
  const [medium] = media;
  const first = await Ownership.take(medium, false);
  expect(await Ownership.take(medium, false)).toBeNull();
  const row = await loadMedium(medium);
  const write = (owner: Ownership | null, name: string) =>
    database.transaction("rw", database.media, async () => {
      await owner?.check();
      await database.media.update(medium, { name });
    });
  await write(first, "first");
  const second = await Ownership.take(medium, true);
  await expect(write(first, "late")).rejects.toThrow("Another tab works on this medium now.");
  await write(second, "second");
  expect(await loadMedium(medium)).toMatchObject({ name: "second", owner: (row?.owner ?? 0) + 1 });
  second?.letGo();
  await expect.poll(() => Ownership.isTaken(medium)).toBe(false);
  await database.media.delete(medium);
  await expect(Ownership.take(medium, false)).rejects.toThrow("removed from its ticket");
  await expect(write(second, "later")).rejects.toThrow("removed from its ticket");
});

test("what one worker learns of bad places another one knows, and both of them after a restart; of a removed medium nothing is kept", async () => {
  const { media } = await ticketOf(cardFile());
  const [one, other] = [await PlaceLink.open(media[0]), await PlaceLink.open(media[0])];
  one.ledger.giveUp(4096, 512);
  await expect.poll(() => other.ledger.lost.list()).toEqual([{ offset: 4096, length: 512 }]);
  other.ledger.giveUp(8192, 512);
  await expect.poll(() => one.ledger.lost.list().length).toBe(2);
  await expect.poll(async () => (await database.places.get(media[0]))?.dead.length).toBe(2);
  one.close();
  other.close();
  const later = await PlaceLink.open(media[0]);
  expect(later.ledger.lost.bytes).toBe(1024);
  await database.media.delete(media[0]);
  await database.places.clear();
  later.ledger.giveUp(0, 512);
  await later.settle();
  expect(await database.places.count()).toBe(0);
  later.close();
});

test("a medium that the database does not let go of is there as before, and can still be worked on", async () => {
  const { job, media } = await ticketOf(cardFile());
  const tab = await open(job);
  const { delete: erase } = IDBObjectStore.prototype;
  IDBObjectStore.prototype.delete = () => {
    throw new DOMException("the disk failed", "UnknownError");
  };
  await tab.session.removeMedium(media[0]);
  expect(tab.session.store.getState().media[0].problem).toMatch(/^It could not be taken out of the ticket\. .*the disk failed/);
  IDBObjectStore.prototype.delete = erase;
  await expect.poll(() => Ownership.isTaken(media[0])).toBe(false);
  await tab.session.start(DEEP);
  await tab.until(media[0], "done");
  await expectWhole(media[0]);
});
