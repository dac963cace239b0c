import { EVERYTHING_THERE } from "../../../core/scan/scope.ts";
import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, test } from "vitest";
import { findKey } from "../../../core/finds/find-key.ts";
import type { MessageValues } from "../../../core/finds/record.ts";
import { NOTHING_SAID } from "../../../core/stores/mapping/by-hand.ts";
import { messenger } from "../../../test/messengers.ts";
import { addMedium, cardFile, emptyDatabase, fullAfter, Tab, ticketOf } from "../../../test/tab.ts";
import { installBrowser } from "../../../test/web-locks.ts";
import { database, loadMedium } from "../../kept/database.ts";
import { knownMappings } from "../../kept/known-mappings.ts";
import { Ownership } from "../../kept/ownership.ts";
import type { Verdict } from "./meaning-protocol.ts";

installBrowser();
/** One that is offered only: nothing in it says which of two addresses is the sender, and the guess is wrong. */
const made = messenger(1);
const file = () => new File([made.bytes as BlobPart], "store.db");
const tabs: Tab[] = [];
async function scanned(): Promise<{ tab: Tab; job: number; medium: number; key: string }> {
  const { job, media } = await ticketOf(file());
  const tab = await Tab.open(job);
  tabs.push(tab);
  await tab.session.start({ depth: "deep", ...EVERYTHING_THERE });
  await tab.until(media[0], "done");
  const [{ find }] = (await loadMedium(media[0]))?.scan.proposals ?? [{ find: "" }];
  return { tab, job, medium: media[0], key: findKey(media[0], find) };
}
beforeEach(emptyDatabase);
afterEach(async () => {
  for (const tab of tabs.splice(0)) await tab.close();
});

/** Who let go of a medium has let go of it a moment later. */
const free = (medium: number) => expect.poll(() => Ownership.isTaken(medium)).toBe(false);

/** Sender and recipient, the other way round. */
async function putRight(tab: Tab, key: string): Promise<Verdict> {
  const opened = await tab.reading.openMeaning(key, () => {});
  if (!opened.ok) throw new Error(opened.because);
  const { meaning } = opened.answer;
  const sender = meaning.columns.find(({ role }) => role === "sender");
  const said = { table: meaning.table, roles: { [sender?.key ?? ""]: "conversation" as const }, sides: null };
  expect((await tab.reading.readMeaning(said))?.meaning.mapping).not.toBeNull();
  return { by: "hand", said };
}

/** Of what was said and is there, how much is kept with its side. */
async function rightKept(medium: number): Promise<number> {
  const packs = await database.people.where({ medium }).toArray();
  const sides = new Map(
    packs.flatMap(({ entries }) =>
      entries.flatMap(({ kind, values }) => {
        const { at, text, direction } = values as MessageValues;
        return kind === "chat" ? [[`${Math.floor(Date.parse(at ?? "") / 1000)} ${text}`, direction] as const] : [];
      }),
    ),
  );
  const there = made.said.filter(({ erased }) => !erased);
  return there.filter(({ at, text, direction }) => sides.get(`${Math.floor(at / 1000)} ${text}`) === direction).length / there.length;
}

test("a database that is offered only is kept as such, and read when somebody said how: its messages are there at once, and stay", async () => {
  const { tab, job, medium, key } = await scanned();
  expect(await database.people.where({ medium }).count()).toBe(0);
  expect((await loadMedium(medium))?.scan.proposals).toMatchObject([{ table: expect.any(String), sureness: expect.closeTo(0.78, 1) }]);
  const kept = await tab.reading.keepMeaning(job, await putRight(tab, key));
  expect(kept).toMatchObject({ ok: true, read: expect.any(Number) });
  expect(await rightKept(medium)).toBeGreaterThan(0.99);
  expect((await loadMedium(medium))?.scan.proposals).toEqual([]);
  await expect.poll(() => tab.index.people.counts.conversation).toBeGreaterThan(8);
  await free(medium);
  // Said once more it takes the place of what was said before, and nothing is doubled.
  await tab.reading.keepMeaning(job, await putRight(tab, key));
  expect((await knownMappings()).mappings).toHaveLength(1);
  expect(await rightKept(medium)).toBeGreaterThan(0.99);
});

test("a scan after that, of another copy of the same app's database, reads it so at once", async () => {
  const { tab, job, key } = await scanned();
  await tab.reading.keepMeaning(job, await putRight(tab, key));
  const again = await addMedium(job, new File([made.bytes as BlobPart], "another.db"));
  await tab.session.reread();
  await tab.session.medium(again)?.start({ depth: "deep", ...EVERYTHING_THERE });
  await tab.until(again, "done");
  expect(await rightKept(again)).toBeGreaterThan(0.99);
  expect((await loadMedium(again))?.scan.proposals).toEqual([]);
});

test("no messenger: nothing of it is read or offered any more, until somebody says otherwise", async () => {
  const { tab, job, medium, key } = await scanned();
  const right = await putRight(tab, key);
  await tab.reading.keepMeaning(job, right);
  await free(medium);
  expect(await tab.reading.keepMeaning(job, { by: "no messenger" })).toEqual({ ok: true, read: 0 });
  expect(await database.people.where({ medium }).count()).toBe(0);
  expect((await knownMappings()).refused.size).toBe(1);
  expect(await tab.reading.readMeaning(NOTHING_SAID)).toMatchObject({ isRefused: true });
  await tab.session.start({ depth: "quick", ...EVERYTHING_THERE });
  await tab.until(medium, "running");
  await tab.until(medium, "done");
  expect((await loadMedium(medium))?.scan.proposals).toEqual([]);
  expect(await database.people.where({ medium }).count()).toBe(0);
  await free(medium);
  await tab.reading.keepMeaning(job, right);
  expect(await rightKept(medium)).toBeGreaterThan(0.99);
  expect((await knownMappings()).refused.size).toBe(0);
});

test("while another tab works on the medium the meaning alone is kept; its scan is not written into", async () => {
  const { tab, job, medium, key } = await scanned();
  const verdict = await putRight(tab, key);
  const other = await Ownership.take(medium, false);
  expect(await tab.reading.keepMeaning(job, verdict)).toEqual({ ok: true, read: null });
  expect(await database.people.where({ medium }).count()).toBe(0);
  expect((await knownMappings()).mappings).toHaveLength(1);
  other?.letGo();
});

test("no room: it is said, and neither the meaning nor half of the messages is kept", async () => {
  const { tab, job, medium, key } = await scanned();
  const verdict = await putRight(tab, key);
  // The medium's own row is written, then the mapping; the messages are not any more.
  const room = fullAfter(2);
  expect(await tab.reading.keepMeaning(job, verdict)).toMatchObject({ ok: false, because: expect.stringContaining("no room") });
  room();
  expect(await database.mappings.count()).toBe(0);
  expect(await database.people.where({ medium }).count()).toBe(0);
  expect((await loadMedium(medium))?.scan.proposals).toHaveLength(1);
  expect(await tab.reading.keepMeaning(job, verdict)).toMatchObject({ ok: true });
});

test("a mapping of other tables, one that reads nothing, a find that is no database: a sentence, and nothing is kept", async () => {
  const { tab, job, key } = await scanned();
  await putRight(tab, key);
  const { mappings } = await knownMappings();
  expect(mappings).toEqual([]);
  const foreign = (await tab.reading.readMeaning(NOTHING_SAID))?.meaning.mapping;
  if (!foreign) throw new Error("nothing was proposed");
  const tables = foreign.fits.tables.map((ref) => ("name" in ref ? { ...ref, name: `${ref.name} elsewhere` } : ref));
  const verdict: Verdict = { by: "file", mapping: { ...foreign, fits: { ...foreign.fits, tables } } };
  expect(await tab.reading.keepMeaning(job, verdict)).toEqual({
    ok: false,
    because: "This mapping is of other tables than this database has.",
  });
  const nothing = { table: foreign.fits.tables[0].as, roles: {}, sides: null };
  expect(await tab.reading.keepMeaning(job, { by: "hand", said: nothing })).toMatchObject({ ok: false });
  expect(await database.mappings.count()).toBe(0);
  const card = await addMedium(job, cardFile());
  await tab.session.reread();
  await tab.session.medium(card)?.start({ depth: "quick", ...EVERYTHING_THERE });
  await tab.until(card, "done");
  const [pack] = await database.packs.where("medium").equals(card).toArray();
  expect(await tab.reading.openMeaning(findKey(card, pack.finds[0].id), () => {})).toEqual({
    ok: false,
    because: "No rows can be told apart in it.",
  });
});
