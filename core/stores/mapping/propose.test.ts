import { expect, test } from "vitest";
import { type Messenger, messenger, type Shape } from "../../../test/messengers.ts";
import { databaseOf, NO_MESSENGERS } from "../../../test/no-messengers.ts";
import { gatheredOf, rightShare } from "../../../test/read-messenger.ts";
import { gatheredKept, messagesOf, peopleTruth, titlesOf } from "../../../test/told-people.ts";
import type { MessageValues } from "../../finds/record.ts";
import { readStores } from "../read-stores.ts";
import { MappingSchema } from "./mapping.ts";
import { propose } from "./propose.ts";
import { SHIPPED } from "./shipped.ts";

/** From this on a proposal is used at once, and from this on it is offered (the project's own thresholds, no source). */
const SURE = 0.8;
const OFFERED = 0.4;

const shapeOf = ({ shape }: Messenger) => JSON.stringify(shape);

test("messengers of random shape, with nonsense for names, are read right: nearly all at once, and no sure one wrongly", async () => {
  let sure = 0;
  const seeds = Array.from({ length: 8 }, (_, seed) => seed + 900);
  for (const seed of seeds) {
    const made = messenger(seed);
    const { sureness, live, erased, wrong } = await rightShare(made);
    if (sureness < SURE) continue;
    sure++;
    expect.soft(live, `${seed} ${shapeOf(made)} ${JSON.stringify(wrong)}`).toBeGreaterThan(0.95);
    expect.soft(erased, `${seed} ${shapeOf(made)} ${JSON.stringify(wrong)}`).toBeGreaterThan(0.85);
  }
  expect(sure / seeds.length).toBeGreaterThan(0.85);
});

/** Each way that a thing is told, by itself. */
const WAYS: Readonly<Record<string, Partial<Shape>>> = {
  "seconds since 1904": { time: "s1904" },
  "hundreds of nanoseconds since 1601": { time: "100ns1601" },
  "hundreds of nanoseconds since the year 1": { time: "ticks" },
  "seconds since 2001, with a fraction": { time: "s2001" },
  "a day and the seconds of it": { time: "split" },
  "a day and a clock, written out": { time: "split text" },
  "Julian days": { time: "julian" },
  "day, month and year with dots": { time: "day first" },
  "digits as a text": { time: "digits" },
  "fields behind their numbers": { text: "fields" },
  "packed by zlib": { text: "packed" },
  "JSON, with the files in a list": { text: "json", files: "json" },
  "UTF-16 in bytes": { text: "utf16" },
  "behind its length, with other bytes around": { text: "prefixed" },
  base64: { text: "base64" },
  "a table of its own": { text: "table" },
  "a full-text table": { text: "index" },
  "sender and recipient": { direction: "pair" },
  "a table for each conversation": { talk: "table" },
  "two accounts": { talk: "account" },
  "codes with several values for each side": { direction: "codes" },
  "a bit among others": { direction: "bit" },
  "the owner by name": { direction: "owner" },
};
const PLAIN: Partial<Shape> = {
  time: "ms",
  direction: "flag",
  talk: "number",
  text: "column",
  address: "mail",
  sender: "id",
  files: "table",
  system: true,
  people: true,
  rooms: true,
  groups: true,
  count: 500,
};

test.each(Object.entries(WAYS))("told as %s: time, text, sides, conversations, senders and files are right", async (_, way) => {
  const made = messenger(77, { ...PLAIN, ...way, ...(way.direction === "pair" && { talk: "address", sender: "address" }) });
  const { sureness, live, wrong, invented, mapping } = await rightShare(made);
  expect(wrong).toEqual({});
  expect(live).toBe(1);
  expect(invented).toBeLessThan(3);
  expect(sureness).toBeGreaterThanOrEqual(SURE);
  // What is proposed is a mapping like any other: it can be kept, handed on and read again.
  expect(MappingSchema.parse(JSON.parse(JSON.stringify(mapping)))).toEqual(mapping);
});

test("where no sender is named, the kind of a message is not taken for its side", async () => {
  // Few messages, and a third of them pictures: which are which tells nothing of who sent them.
  for (const seed of [94, 541, 1207, 1208, 1209]) {
    const made = messenger(seed, { direction: "alone", talk: "address", address: "number", files: "columns", count: 90 });
    const { sureness, live, wrong } = await rightShare(made);
    if (sureness >= SURE) expect.soft(live, `${seed} ${JSON.stringify(wrong)}`).toBeGreaterThan(0.95);
  }
});

test.each(Object.keys(NO_MESSENGERS))("%s: no messenger, and nothing is proposed", async (name) => {
  for (const seed of [1, 2]) {
    const proposed = propose(await gatheredOf(databaseOf(NO_MESSENGERS[name], seed)));
    expect(proposed?.mapping.sureness ?? 0, JSON.stringify(proposed?.mapping.because)).toBeLessThan(OFFERED);
  }
});

test("a messenger of the open set: by its shape alone, and by the mapping that is shipped", async () => {
  const truth = peopleTruth("quillmoth");
  for (const mappings of [[], SHIPPED]) {
    const { entries, proposal } = readStores(await gatheredKept("quillmoth"), { mappings });
    const account = messagesOf(truth, entries);
    expect(account.wrong).toEqual([]);
    expect(account.asked).toMatchObject({ present: 1978, binned: 22, erased: 276 });
    // At most 0.5 % of what is told.
    expect(account.invented).toBeLessThan(entries.length * 0.005);
    expect(proposal).toBeNull();
    expect(new Set(entries.map(({ store }) => store))).toEqual(new Set([mappings.length > 0 ? "quillmoth" : "proposed"]));
    const groups = [...titlesOf(entries).values()].filter(({ group }) => group);
    expect(groups.map(({ title }) => title)).toContain("Threadgold & Marrow Touring Theatre 2");
    expect(groups.every(({ members }) => (members?.length ?? 0) > 1)).toBe(true);
  }
});

test("what an edited message said before stands in it, and is no message of its own", async () => {
  const { entries } = readStores(await gatheredKept("quillmoth"), { mappings: [] });
  const edited = entries.flatMap(({ values }) => ((values as MessageValues).before ? [values as MessageValues] : []));
  expect(edited.length).toBeGreaterThan(15);
  for (const { text, before } of edited)
    for (const one of before ?? []) expect(text?.startsWith(one.text.slice(0, 4)), `${text} / ${one.text}`).toBe(true);
  const texts = new Set(edited.flatMap(({ before }) => before?.map((one) => one.text) ?? []));
  const again = entries.filter(({ state, values }) => state === "erased" && texts.has((values as MessageValues).text ?? "\0"));
  expect(again.length).toBeLessThan(3);
});

test("a few rows, none at all, or rows that say nothing propose nothing", async () => {
  expect(
    propose(
      await gatheredOf(
        databaseOf([
          { sql: "t(id INTEGER PRIMARY KEY, at INTEGER, words TEXT)", rows: 5, row: (id, at) => [id, at, `words that say ${id}`] },
        ]),
      ),
    ),
  ).toBeNull();
  expect(
    propose(await gatheredOf(databaseOf([{ sql: "t(id INTEGER PRIMARY KEY, at INTEGER, words TEXT)", rows: 0, row: () => [] }]))),
  ).toBeNull();
  expect(
    propose(await gatheredOf(databaseOf([{ sql: "t(id INTEGER PRIMARY KEY, a, b)", rows: 200, row: (id) => [id, null, ""] }]))),
  ).toBeNull();
});

test("who wrote goes with the conversation: that tells the sides, whichever of them has more states", async () => {
  // A shape and a seed by which states, of few messages, tell the wrong way round.
  const { live, sureness } = await rightShare(messenger(3001));
  expect([live, sureness >= 0.8]).toEqual([1, true]);
});

test("where one column says who writes and another who reads, neither is with whom a conversation is, whatever a mark beside them tells", async () => {
  // A seed by which the mark of notices told the sides, and half of a conversation was with the owner.
  const { live, wrong, sureness } = await rightShare(messenger(6061));
  if (sureness >= SURE) expect(live, JSON.stringify(wrong)).toBeGreaterThan(0.95);
  expect(wrong.conversation ?? 0).toBe(0);
});
