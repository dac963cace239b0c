import { expect, test } from "vitest";
import { gatheredOf } from "../../test/read-messenger.ts";
import { callsOf, contactsOf, eventsOf, gatheredKept, messagesOf, peopleTruth } from "../../test/told-people.ts";
import type { EventValues, MediaValues, MessageValues } from "../finds/record.ts";
import { durationOf } from "./calendar.ts";
import { isoOf, keyOf } from "./gathered.ts";
import { readStores } from "./read-stores.ts";
import { onceEach } from "./store.ts";

/** Databases written by the real SQLite library after the public schemas of the Android Open Source Project; the accounts tell what is in them. */
const NO_MAPPINGS = { mappings: [] };
const told = async (name: string) => readStores(await gatheredKept(name), NO_MAPPINGS).entries;
const all = (asked: Readonly<Record<string, number>>) => asked;

test("calls: number, name, moment, length and direction of all that are there, binned, or erased with their bytes left", async () => {
  const account = callsOf(peopleTruth("calllog"), await told("calllog"));
  expect(account.wrong).toEqual([]);
  expect(account.right).toEqual(all(account.asked));
  expect(account.asked).toMatchObject({ present: 1193, binned: 6, erased: 275 });
  expect(account.invented).toBe(0);
});

test("events: shown, hidden with their calendar, binned, erased; a repeated one ends after its duration", async () => {
  const entries = await told("calendar");
  const account = eventsOf(peopleTruth("calendar"), entries);
  expect(account.wrong).toEqual([]);
  expect(account.asked).toMatchObject({ hidden: 58, binned: 8 });
  const repeated = entries.find(({ values }) => (values as EventValues).title?.startsWith("Heute 739 Zuschauer"));
  expect(repeated?.values).toMatchObject({ start: "2024-01-02T20:30:00.000Z", end: "2024-01-02T21:30:00.000Z" });
});

test("contacts of an address book without its first page: hidden ones say what hides them, binned and erased ones are told apart", async () => {
  const entries = await told("contacts2-nopage1");
  const account = contactsOf(peopleTruth("contacts2-nopage1"), entries);
  expect(account.wrong).toEqual([]);
  expect(account.asked).toMatchObject({ hidden: 20, binned: 7 });
  // Nobody is told of who has neither a name nor a number.
  expect(entries.filter(({ values }) => !("name" in values) && !(values as { phones?: [] }).phones?.length)).toEqual([]);
});

test("messages of a phone, some of whose pages are zeroed: text, sides, threads, attachments of multimedia messages", async () => {
  const account = messagesOf(peopleTruth("mmssms-zeroed"), await told("mmssms-zeroed"));
  expect(account.wrong).toEqual([]);
  expect(account.right).toEqual(account.asked);
  expect(account.asked.present).toBe(678);
});

test("the media list tells until when a file is in the bin, and gives no chats", async () => {
  const entries = await told("external");
  expect(new Set(entries.map(({ kind }) => kind))).toEqual(new Set(["media"]));
  const binned = entries.filter(({ state }) => state === "binned");
  expect(binned.length).toBeGreaterThan(10);
  for (const { values } of binned) expect((values as MediaValues).until).toMatch(/^20\d\d-\d\d-\d\d$/);
});

test("an entry's id is the place of its row: the same in every run, and no two have one", async () => {
  const [first, second] = [await told("mmssms-zeroed"), await told("mmssms-zeroed")];
  expect(second.map(({ id }) => id)).toEqual(first.map(({ id }) => id));
  expect(new Set(first.map(({ id }) => id)).size).toBe(first.length);
});

test("durations are read as RFC 5545 §3.3.6 has them, and as the provider writes them", () => {
  const hour = 3_600_000;
  // The standard's own examples: 15 days, 5 hours and 20 seconds; 7 weeks.
  expect(durationOf("P15DT5H0M20S")).toBe(15 * 24 * hour + 5 * hour + 20_000);
  expect(durationOf("P7W")).toBe(49 * 24 * hour);
  expect(durationOf("P3600S")).toBe(hour);
  expect(durationOf("-PT30M")).toBe(-hour / 2);
  for (const none of ["", "3600", "P", "PT1X", undefined]) expect(durationOf(none) ?? 0).toBe(0);
});

test("moments that no clock has shown are not known", () => {
  expect(isoOf(8.64e15)).toBe("+275760-09-13T00:00:00.000Z");
  for (const none of [8.65e15, Number.NaN, Number.POSITIVE_INFINITY, undefined]) expect(isoOf(none)).toBeUndefined();
});

test("what names the same thing is the same key, as a number, a text or bytes", () => {
  expect(keyOf(17)).toBe(keyOf("17"));
  expect(keyOf(17n)).toBe(keyOf(17));
  expect(keyOf(new Uint8Array([0xca, 0xfe]))).toBe("cafe");
  for (const nothing of [null, undefined, "", new Uint8Array(0), new Uint8Array(65)]) expect(keyOf(nothing)).toBeNull();
});

test("of a message that is there only those parts are told that are there; what of it was erased is not its own any more", async () => {
  const { default: initSqlJs } = await import("sql.js");
  const db = new (await initSqlJs()).Database();
  db.run("PRAGMA secure_delete=OFF");
  db.run("CREATE TABLE pdu(_id INTEGER PRIMARY KEY, thread_id INTEGER, date INTEGER, msg_box INTEGER, m_type INTEGER)");
  db.run("CREATE TABLE part(_id INTEGER PRIMARY KEY, mid INTEGER, seq INTEGER, ct TEXT, name TEXT, _data TEXT, text TEXT)");
  db.run("CREATE TABLE addr(_id INTEGER PRIMARY KEY, msg_id INTEGER, address TEXT, type INTEGER)");
  db.run("INSERT INTO pdu VALUES (1, 7, 1714672800, 1, 132)");
  db.run("INSERT INTO addr VALUES (1, 1, '+447700900123', 137), (2, 1, 'insert-address-token', 151)");
  for (let id = 1; id <= 6; id++)
    db.run("INSERT INTO part VALUES (?, 1, 0, 'image/jpeg', ?, ?, NULL)", [id, `poster ${id}.jpg`, `/parts/poster ${id}.jpg`]);
  db.run("INSERT INTO part VALUES (9, 1, 1, 'text/plain', NULL, NULL, 'for the 9th')");
  db.run("DELETE FROM part WHERE _id IN (2, 3, 4)");
  const { entries } = readStores(await gatheredOf(db.export()), NO_MAPPINGS);
  db.close();
  const [message] = entries.filter(({ kind }) => kind === "message");
  expect(message.values).toMatchObject({ direction: "in", address: "+447700900123", text: "for the 9th", at: "2024-05-02T18:00:00.000Z" });
  expect((message.values as MessageValues).attachments?.map(({ name }) => name)).toEqual(["poster 1.jpg", "poster 5.jpg", "poster 6.jpg"]);
});

test("row ids of which nothing is left are told before the message that comes next; of an app's own numbers, drawn by chance, none is", async () => {
  const { default: initSqlJs } = await import("sql.js");
  const SQL = await initSqlJs();
  const skippedIn = async (ids: readonly number[], gone: readonly number[], wiped: boolean) => {
    const db = new SQL.Database();
    db.run(`PRAGMA secure_delete=${wiped ? "ON" : "OFF"}`);
    db.run("CREATE TABLE sms(_id INTEGER PRIMARY KEY, thread_id INTEGER, address TEXT, date INTEGER, type INTEGER, body TEXT)");
    for (const id of ids)
      db.run("INSERT INTO sms VALUES (?, 1, '+447700900123', ?, 1, ?)", [id, 1714672800000 + id, `the moon rig is wet ${id}`]);
    for (const id of gone) db.run("DELETE FROM sms WHERE _id = ?", [id]);
    const { entries } = readStores(await gatheredOf(db.export()), NO_MAPPINGS);
    db.close();
    return entries.flatMap(({ values, skipped }) => (skipped ? [[(values as MessageValues).text, skipped]] : []));
  };
  const twenty = Array.from({ length: 20 }, (_, index) => index + 1);
  expect(await skippedIn(twenty, [5, 6, 7, 12], true)).toEqual([
    ["the moon rig is wet 8", 3],
    ["the moon rig is wet 13", 1],
  ]);
  // What was erased and is still there is not skipped, and what the first or the last ones were nobody can say.
  expect(await skippedIn(twenty, [9, 10], false)).toEqual([]);
  expect(await skippedIn(twenty, [1, 2, 20], true)).toEqual([]);
  expect(await skippedIn([7, 90_112, 5_000_300, 9_812_345], [], false)).toEqual([]);
});

test("of several copies of one thing the best is told, and none where it is there", async () => {
  const { entries } = readStores(await gatheredKept("calllog"), NO_MAPPINGS);
  const [present] = entries;
  const erased = { ...present, state: "erased" as const };
  const other = { ...erased, id: "other", condition: "damaged" as const, values: { ...present.values, at: "2020-01-01T00:00:00.000Z" } };
  const alike = ({ values }: (typeof entries)[number]) => (values as { at?: string }).at ?? null;
  expect(onceEach([erased, present], alike)).toEqual([present]);
  expect(onceEach([other, { ...other, condition: "whole" }], alike)).toMatchObject([{ condition: "whole" }]);
  // Two that are there are two, however alike.
  expect(onceEach([present, present], alike)).toHaveLength(2);
  expect(onceEach([other, other], () => null)).toHaveLength(2);
});
