import { expect, test } from "vitest";
import { GROUPS, OTHER_SHAPES, otherMessenger, PEOPLE } from "../../../test/other-messengers.ts";
import { PACKED_SHAPES } from "../../../test/packed-messengers.ts";
import { gatheredOf, rightOf } from "../../../test/read-messenger.ts";
import type { ConversationValues, MessageValues } from "../../finds/record.ts";
import { readStores } from "../read-stores.ts";

const NO_MAPPINGS = { mappings: [] };

test.each(Object.entries({ ...OTHER_SHAPES, ...PACKED_SHAPES }))("%s: read at once, and right", async (name, shape) => {
  const { said, talks, bytes } = await otherMessenger(shape);
  const { entries } = readStores(await gatheredOf(bytes), NO_MAPPINGS);
  const { live, erased, wrong, invented } = rightOf(said, entries);
  const all = JSON.stringify(wrong);
  expect(live, all).toBeGreaterThan(0.95);
  expect(erased, all).toBeGreaterThan(0.95);
  // What is left of a row that another one lies over is no message that was written, and says that it is damaged.
  expect(invented).toBeLessThanOrEqual(said.length * 0.005);
  const texts = new Set(said.map(({ text }) => text));
  const whole = entries.filter(({ kind, condition }) => kind === "chat" && condition === "whole");
  // Where texts have rows of their own, one may be gone while its message is not.
  const read = whole.flatMap(({ values }) => (values as MessageValues).text ?? []);
  for (const text of read) expect(texts).toContain(text);
  // Nothing besides, whether it says something or not.
  expect(entries.filter(({ kind }) => kind === "chat").length).toBeLessThanOrEqual(said.length);
  expect((wrong.group ?? 0) / said.length, all).toBeLessThan(0.05);
  // Where only addresses of the app's own name people, nothing says what their numbers are.
  if (name !== "only groups say who wrote") expect((wrong.sender ?? 0) / said.length, all).toBeLessThan(0.05);
  const conversations = entries.filter(({ kind }) => kind === "conversation");
  expect(conversations.length).toBe(talks.length);
  expect(new Set(conversations.map(({ id }) => id)).size).toBe(conversations.length);
  const called = new Set([...GROUPS, ...PEOPLE.map((one) => one.name)]);
  for (const { values } of conversations) if ("title" in values && values.title) expect(called).toContain(values.title);
  // With whom a conversation is: nobody else is in it.
  const pairs = conversations.flatMap(({ values }) =>
    (values as ConversationValues).group ? [] : [(values as ConversationValues).members ?? []],
  );
  expect(pairs.every((members) => members.length === 1)).toBe(true);
});

test("within ten days, months before days are no days before months: what was written stands near together", async () => {
  const { said, bytes } = await otherMessenger(OTHER_SHAPES["months before days, and halves of the day"], 250);
  expect(new Date(said.at(-1)?.at ?? 0).getUTCDate()).toBeLessThanOrEqual(12);
  const { live } = rightOf(said, readStores(await gatheredOf(bytes), NO_MAPPINGS).entries);
  expect(live).toBe(1);
});

test("where a list names the tables of conversations, each is called as it says", async () => {
  const { talks, bytes } = await otherMessenger(OTHER_SHAPES["a table for each conversation, and a list that names the tables"]);
  const { entries } = readStores(await gatheredOf(bytes), NO_MAPPINGS);
  const titles = entries.flatMap(({ kind, values }) => (kind === "conversation" ? [(values as ConversationValues).title] : []));
  expect(titles.sort()).toEqual(talks.map(({ title, members }) => title ?? members[0].name).sort());
});

test("in a large one, of which only some rows are looked at, names that stand beside few senders are read too", async () => {
  const { said, bytes } = await otherMessenger(OTHER_SHAPES["a document in each row, with the sender's name in it"], 3600);
  const { wrong } = rightOf(said, readStores(await gatheredOf(bytes), NO_MAPPINGS).entries);
  expect(wrong).toEqual({});
});

test("a table that holds again what the messages say is none of messages: an index of their texts, a copy", async () => {
  const shape = OTHER_SHAPES["older messages in a table of their own, with the same conversations"];
  const { said, bytes } = await otherMessenger({
    ...shape,
    statements: (told, random) => [
      ...shape.statements(told, random).filter((one) => typeof one === "string" || !one[0].includes("zb")),
      ...told.said.flatMap((one) => {
        const row = [one.id, one.talk.id, one.sender?.address ?? null, one.direction === "out" ? 1 : 0, one.at, one.text];
        return [
          ["INSERT INTO zb VALUES (?,?,?,?,?,?)", row] as const,
          ...(one.id < 300 ? [["INSERT INTO za VALUES (?,?,?,?,?,?)", row] as const] : []),
        ];
      }),
    ],
  });
  const chats = readStores(await gatheredOf(bytes), NO_MAPPINGS).entries.filter(({ kind }) => kind === "chat");
  expect(chats.length).toBeLessThanOrEqual(said.length);
});
