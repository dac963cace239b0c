import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { RecordValues } from "../../../core/finds/record.ts";
import { aFind } from "../../../test/finds.ts";
import { anEntry } from "../../../test/records.ts";
import { cardFile, emptyDatabase, ticketOf } from "../../../test/tab.ts";
import { database } from "../../kept/database.ts";
import { keptEntryOf } from "../../kept/kept-people.ts";
import { IndexDesk } from "./index-desk.ts";

let desk = new IndexDesk();
beforeEach(async () => {
  await emptyDatabase();
  desk = new IndexDesk();
});
afterEach(() => desk.close());

const ANA = "+447700900231";
const chat = (id: string, values: RecordValues) =>
  keptEntryOf(anEntry(id, "chat", { address: ANA, direction: "in", at: "2026-05-02T18:00:00.000Z", ...values }, { store: "fadenwerk" }));
const keep = (medium: number, find: string, number: number, entries: ReturnType<typeof chat>[]) =>
  database.people.put({ medium, find, number, scan: 0, entries: entries.filter((one) => one !== null) });
const OF_ANA = { key: ANA, kinds: [], states: [], conditions: [], days: null, words: "", apps: [], files: false, earliest: false } as const;

test("files that a person's messages name and nothing that was found is called by are counted once each, on whatever medium they may lie", async () => {
  const { job, media } = await ticketOf(cardFile("card.img"), cardFile("old.img"));
  await database.packs.put({ medium: media[1], number: 0, finds: [aFind({ id: "a", name: "FW12.JPG" })], hidden: [] });
  await keep(media[0], "e0", 0, [
    chat("m1", { attachments: [{ path: "/storage/Chat/fw12.jpg" }, { path: "Chat/gone.jpg" }] }),
    chat("m2", { attachments: [{ path: "Chat/gone.jpg" }, { name: "voice.amr" }, { type: "image/jpeg" }] }),
    chat("m3", { text: "no file" }),
    chat("m4", { address: "+447700900232", attachments: [{ name: "somebody else's.jpg" }] }),
  ]);
  await desk.open(job, () => {});
  expect(await desk.missingFiles(OF_ANA)).toBe(2);
  expect(await desk.missingFiles({ ...OF_ANA, key: "nobody" })).toBe(0);
});

test("what a scan keeps further of a database is taken in behind what is there; what it keeps anew is told by its key", async () => {
  const { job, media } = await ticketOf(cardFile("card.img"));
  await keep(media[0], "e0", 0, [chat("m1", { text: "one" })]);
  await desk.open(job, () => {});
  expect(desk.people.askPerson(OF_ANA)?.total).toBe(1);
  await keep(media[0], "e0", 0, [chat("m1", { text: "one" }), chat("m2", { text: "two" })]);
  await keep(media[0], "e1", 0, [chat("m3", { text: "three" })]);
  // Of this database alone: the other one is not told of yet.
  await desk.people.take(media[0], ["e0"]);
  expect(desk.people.askPerson(OF_ANA)?.total).toBe(2);
  await desk.people.take(media[0], ["e1"]);
  await desk.people.take(media[0], ["e1"]);
  expect((await desk.people.keysOfPerson(OF_ANA)).sort()).toEqual(["m1", "m2", "m3"].map((id) => `${media[0]}:${id}`));
  const [first] = await desk.people.window(0, 1);
  expect(first).toMatchObject({ medium: media[0], kind: "chat" });
});

test("what comes while a conversation is open stands in it at once, in its place; a message that was there is found by its key where it stands now", async () => {
  const { job, media } = await ticketOf(cardFile("card.img"));
  const at = (minute: number) => `2026-05-02T18:0${minute}:00.000Z`;
  const talk = keptEntryOf(anEntry("t", "conversation", { members: [{ address: ANA }] }, { store: "fadenwerk" }));
  const said = (id: string, minute: number) => chat(id, { text: id, at: at(minute), conversation: "t" });
  await keep(media[0], "e0", 0, [talk, said("m1", 1), said("m5", 5)]);
  await desk.open(job, () => {});
  const key = `${media[0]}:t`;
  expect(desk.people.open(key)).toBe(2);
  const read = async () => (await desk.people.messages(key, 0, 9)).map(({ id }) => id);
  expect(await read()).toEqual(["m1", "m5"]);
  expect(desk.people.placeIn(key, `${media[0]}:m5`)).toBe(1);
  await keep(media[0], "e0", 0, [talk, said("m1", 1), said("m5", 5), said("m3", 3)]);
  await desk.people.take(media[0], ["e0"]);
  expect(await read()).toEqual(["m1", "m3", "m5"]);
  expect(desk.people.placeIn(key, `${media[0]}:m5`)).toBe(2);
  expect(desk.people.placeIn(key, `${media[0]}:nobody`)).toBe(-1);
  // Read anew, without the last one.
  await keep(media[0], "e0", 0, [talk, said("m1", 1), said("m3", 3)]);
  await desk.reread();
  expect(await read()).toEqual(["m1", "m3"]);
});

test("a medium that is set aside takes its people with it; a kept pack that nobody can read is passed over", async () => {
  const { job, media } = await ticketOf(cardFile("card.img"), cardFile("old.img"));
  await keep(media[0], "e0", 0, [chat("m1", { text: "one" })]);
  await keep(media[1], "e0", 0, [chat("m1", { text: "one" })]);
  await database.people.put({ medium: media[1], find: "e1", number: 0, scan: 0, entries: [{ kind: "nonsense" }] as never });
  await desk.open(job, () => {});
  expect(desk.people.askPerson(OF_ANA)?.total).toBe(2);
  await database.media.update(media[1], { aside: true });
  await desk.reread();
  expect((await desk.people.keysOfPerson(OF_ANA)).sort()).toEqual([`${media[0]}:m1`]);
});
