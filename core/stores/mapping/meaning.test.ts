import initSqlJs from "sql.js";
import { expect, test } from "vitest";
import { messenger } from "../../../test/messengers.ts";
import { OTHER_SHAPES, otherMessenger } from "../../../test/other-messengers.ts";
import { gatheredOf, rightOf } from "../../../test/read-messenger.ts";
import type { MessageValues } from "../../finds/record.ts";
import { Gathered } from "../gathered.ts";
import { readStores } from "../read-stores.ts";
import { type ByHand, NOTHING_SAID, type Role } from "./by-hand.ts";
import { columnsOf } from "./explain.ts";
import { fingerprintOf, packageOf } from "./fingerprint.ts";
import { MappingSchema } from "./mapping.ts";
import { MeaningReader } from "./meaning.ts";
import { surveyOf } from "./survey.ts";

/** A messenger of few conversations whose flag nothing explains: what went out looks as what came in. */
const made = messenger(77, {
  time: "s",
  direction: "alone",
  talk: "address",
  text: "column",
  address: "number",
  sender: "id",
  files: "columns",
  system: false,
  people: true,
  rooms: false,
  groups: false,
  count: 400,
});
const reader = new MeaningReader(await gatheredOf(made.bytes));
const proposed = reader.read(NOTHING_SAID);
const columnOf = (role: Role) => proposed.meaning.columns.find((one) => one.role === role);

test("a proposal says of each column one of its values, what it is taken for, and why", () => {
  const { meaning, entries } = proposed;
  expect(meaning.tables.map(({ name }) => name)).toContain(meaning.table);
  expect(meaning.columns.map(({ role }) => role).filter((role) => role !== "none")).toEqual(
    expect.arrayContaining(["when", "text", "conversation", "direction"]),
  );
  for (const { because } of meaning.columns) expect(because).toMatch(/\w/);
  expect(columnOf("text")?.example.length).toBeGreaterThan(1);
  expect(columnOf("when")?.because).toContain("s since 1970");
  expect(
    columnOf("direction")
      ?.values.map(({ side }) => side)
      .sort(),
  ).toEqual(expect.arrayContaining(["in", "out"]));
  const { holds } = meaning;
  expect(holds?.messages).toBe(entries.filter(({ kind }) => kind === "chat").length);
  expect(holds).toMatchObject({ withTime: 1, withSide: 1 });
  expect(holds?.rising).toBeGreaterThan(0.95);
  expect(holds?.erased).toBe(entries.filter(({ kind, state }) => kind === "chat" && state === "erased").length);
});

test("a side that is a bit among others is told of the column that it is in", async () => {
  const messages = surveyOf(await gatheredOf(made.bytes)).find(({ name }) => name === proposed.meaning.table);
  const { mapping } = proposed.meaning;
  const flag = columnOf("direction");
  if (!messages || !mapping || !flag) throw new Error("nothing was proposed");
  const from = { col: `m.${flag.key}`, as: [{ bit: 3 }] };
  const columns = columnsOf(messages, { ...mapping, direction: { by: "value", from, in: [0], out: [1] } });
  expect(columns.filter(({ role }) => role === "direction").map(({ key }) => key)).toEqual([flag.key]);
});

test("sides that are turned by hand are turned in every message, erased ones too, and all else stays", () => {
  const flag = columnOf("direction");
  if (!flag) throw new Error("no direction was proposed");
  const of = (side: "in" | "out") => flag.values.filter((one) => one.side === side).map(({ value }) => value);
  const turned = reader.read({ table: null, roles: { [flag.key]: "direction" }, sides: { in: of("out"), out: of("in") } });
  const sides = (entries: typeof proposed.entries) =>
    new Map(entries.flatMap(({ id, kind, values }) => (kind === "chat" ? [[id, (values as MessageValues).direction] as const] : [])));
  const [before, after] = [sides(proposed.entries), sides(turned.entries)];
  expect([...after.keys()].sort()).toEqual([...before.keys()].sort());
  for (const [id, side] of after) expect(side).toBe(before.get(id) === "in" ? "out" : "in");
  expect(turned.meaning.columns.find(({ key }) => key === flag.key)).toMatchObject({ role: "direction", because: "as you said" });
  expect(MappingSchema.parse(JSON.parse(JSON.stringify(turned.meaning.mapping)))).toEqual(turned.meaning.mapping);
});

test("what was said of every column is read so: the same as was proposed; and right", () => {
  const roles = Object.fromEntries(proposed.meaning.columns.map(({ key, role }) => [key, role]));
  const all = reader.read({ table: proposed.meaning.table, roles, sides: null });
  expect(all.entries).toEqual(proposed.entries.map((entry) => ({ ...entry, store: entry.store })));
  const { live, erased, invented } = rightOf(made.said, all.entries);
  expect(live).toBeGreaterThan(0.99);
  expect(erased).toBeGreaterThan(0.95);
  expect(invented).toBe(0);
});

test("a time that is read at is told from one that was sent, by hand; and one that is none reads as nothing, without an error", () => {
  const when = columnOf("when");
  const text = columnOf("text");
  if (!when || !text) throw new Error("nothing was proposed");
  const without: ByHand = { ...NOTHING_SAID, table: proposed.meaning.table, roles: { [when.key]: "none" } };
  expect(reader.read(without).meaning.columns.find(({ key }) => key === when.key)?.role).toBe("none");
  const nonsense = reader.read({ ...NOTHING_SAID, table: proposed.meaning.table, roles: { [text.key]: "when" } });
  expect(nonsense).toMatchObject({ entries: [], meaning: { mapping: null, holds: null, table: proposed.meaning.table } });
  expect(nonsense.meaning.columns.find(({ key }) => key === text.key)?.role).toBe("when");
});

test("a table that is no messages' is looked at when that is asked for, and another one's columns are told", () => {
  const other = proposed.meaning.tables.find(({ name }) => name !== proposed.meaning.table);
  const { meaning } = reader.read({ ...NOTHING_SAID, table: other?.name ?? "" });
  expect(meaning.table).toBe(other?.name);
  expect(meaning.columns.length).toBeGreaterThan(0);
  expect(reader.read({ ...NOTHING_SAID, table: "no such table" }).meaning).toMatchObject({ table: null, mapping: null, columns: [] });
});

test("a messenger that is read wrongly is put right by hand", async () => {
  const wrong = messenger(1);
  const own = new MeaningReader(await gatheredOf(wrong.bytes));
  const first = own.read(NOTHING_SAID);
  expect(rightOf(wrong.said, first.entries).live).toBeLessThan(0.5);
  const sender = first.meaning.columns.find(({ role }) => role === "sender");
  const talk = first.meaning.columns.find(({ role }) => role === "conversation");
  if (!sender || !talk) throw new Error("nothing was proposed");
  // Sender and recipient were taken for each other.
  const right = own.read({ ...NOTHING_SAID, roles: { [sender.key]: "conversation", [talk.key]: "sender" } });
  expect(rightOf(wrong.said, right.entries).live).toBeGreaterThan(0.99);
});

test("a meaning that was kept for an app is that app's, and its second copy's under another name is not; carved without a path it fits by its tables", async () => {
  const gathered = await gatheredOf(made.bytes);
  const at = (path: string | null): Gathered => {
    const one = new Gathered("e0", path);
    for (const { rows } of gathered.tables) one.take(rows.map(({ row }) => row));
    return one;
  };
  const mapping = proposed.meaning.mapping;
  if (!mapping) throw new Error("nothing was proposed");
  const mappings = [{ ...mapping, name: "kept", app: "net.lantern.talk" }];
  const storeAt = (path: string | null) => readStores(at(path), { mappings }).mapping?.name;
  expect(storeAt("/data/data/net.lantern.talk/databases/a.db")).toBe("kept");
  expect(storeAt("/data/user/10/net.lantern.talk/databases/a.db")).toBe("kept");
  expect(storeAt("apps/net.lantern.talk/db/a.db")).toBe("kept");
  expect(storeAt("/data/data/net.lantern.talk.work/databases/a.db")).not.toBe("kept");
  expect(storeAt("/store.db")).toBe("kept");
  expect(storeAt(null)).toBe("kept");
  // Whatever was written in it, it is the same app's database; and one that was refused is read as nothing, though it is surely a messenger.
  const refused = new Set([fingerprintOf(gathered)]);
  const SQL = await initSqlJs();
  const changed = new SQL.Database(made.bytes);
  changed.run(`DELETE FROM ${proposed.meaning.table} WHERE rowid % 3 = 0`);
  const other = await gatheredOf(changed.export());
  changed.close();
  expect(fingerprintOf(other)).toBe(fingerprintOf(gathered));
  expect(readStores(other, { mappings: [], refused }).entries).toEqual([]);
  expect(readStores(other, { mappings: [] }).entries.length).toBeGreaterThan(0);
  expect(packageOf("/sdcard/Android/data/org.fox.chat/files/x.db")).toBe("org.fox.chat");
  expect(packageOf("/data/system/users.db")).toBeNull();
});

test("where two tables hold messages, one that is put right by hand leaves the other as it was; kept and read again both are there", async () => {
  const shape = OTHER_SHAPES["messages to one and to groups in tables of their own"];
  const { said, bytes } = await otherMessenger(shape);
  const gathered = await gatheredOf(bytes);
  const reader = new MeaningReader(gathered);
  const proposed = reader.read(NOTHING_SAID);
  const [more] = proposed.meaning.joined.filter(({ as }) => as === "more messages");
  expect(more.table).not.toBe(proposed.meaning.table);
  expect(rightOf(said, proposed.entries)).toMatchObject({ live: 1, invented: 0 });
  // The sides of the first table turned round: those of the other one stay.
  const flag = proposed.meaning.columns.find(({ role }) => role === "direction");
  const turned = { table: proposed.meaning.table, roles: { [flag?.key ?? ""]: "direction" as const }, sides: { in: [1], out: [0] } };
  const { meaning, entries } = reader.read(turned);
  const { live, wrong } = rightOf(said, entries);
  expect(live).toBeGreaterThan(0.1);
  expect(live).toBeLessThan(0.9);
  expect(Object.keys(wrong).every((what) => what.startsWith("direction") || what === "sender")).toBe(true);
  const kept = MappingSchema.parse(JSON.parse(JSON.stringify({ ...meaning.mapping, name: "kept", sureness: 1 })));
  const again = readStores(await gatheredOf(bytes), { mappings: [kept] });
  expect(again.entries.map(({ id }) => id).sort()).toEqual(entries.map(({ id }) => id).sort());
  expect(new Set(again.entries.map(({ store }) => store))).toEqual(new Set(["kept"]));
  // Another table by hand: then that one alone, for the first one was no messages.
  const other = reader.read({ table: more.table, roles: {}, sides: null });
  expect(other.meaning.mapping?.more).toBeUndefined();
  expect(other.entries.length).toBeLessThan(entries.length);
});
