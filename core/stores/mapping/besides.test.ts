import { expect, test } from "vitest";
import { OTHER_SHAPES, otherMessenger } from "../../../test/other-messengers.ts";
import { gatheredOf, rightOf } from "../../../test/read-messenger.ts";
import { readStores } from "../read-stores.ts";

const SHAPE = OTHER_SHAPES["reactions and receipts among the messages, each naming one"];
type Row = readonly [string, readonly (string | number | null | Uint8Array)[]];
const isRow = (one: unknown): one is Row => Array.isArray(one) && String(one[0]).startsWith("INSERT INTO za");

/** The same messenger with its rows changed: number, conversation, sender, time, kind, text, named row. */
const changed = (change: (row: Row[1]) => Row[1]) =>
  otherMessenger({
    ...SHAPE,
    statements: (told, random) => SHAPE.statements(told, random).map((one) => (isRow(one) ? ([one[0], change(one[1])] as const) : one)),
  });
const chatsOf = async (bytes: Uint8Array) =>
  readStores(await gatheredOf(bytes), { mappings: [] }).entries.filter(({ kind }) => kind === "chat");

test("answers are messages, though each names one: what they say is more than a sign", async () => {
  // What was a reaction is an answer in words.
  const { said, bytes } = await changed((row) =>
    row[4] === 7 ? [...row.slice(0, 5), `Yes, bring the rope number ${row[0]}`, row[6]] : row,
  );
  const chats = await chatsOf(bytes);
  expect(chats.length).toBeGreaterThan(said.length);
  expect(rightOf(said, readStores(await gatheredOf(bytes), { mappings: [] }).entries).live).toBe(1);
});

test("rows of a kind that say nothing and name nothing stay: pictures, calls, what was taken back", async () => {
  const { said, bytes } = await changed((row) => (row[4] === 9 ? [...row.slice(0, 6), null] : row));
  expect((await chatsOf(bytes)).length).toBeGreaterThan(said.length);
});
