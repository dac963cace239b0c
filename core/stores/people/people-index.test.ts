import { describe, expect, test } from "vitest";
import { anEntry } from "../../../test/records.ts";
import { folded, hitsIn, wordsOf } from "../../finds/fold.ts";
import type { FoundRecord, RecordKind, RecordValues } from "../../finds/record.ts";
import { addressKey, countryOf } from "../numbers.ts";
import { PeopleIndex } from "./people-index.ts";
import type { PersonQuery } from "./questions.ts";

const entry = (id: string, kind: RecordKind, values: RecordValues, state: FoundRecord["state"] = "present"): FoundRecord =>
  anEntry(id, kind, values, { state, store: "telephony" });
const at = (minute: number) => new Date(Date.UTC(2024, 4, 2, 18, minute)).toISOString();

function filled(): PeopleIndex {
  const index = new PeopleIndex();
  let position = 0;
  const put = (one: FoundRecord, medium = 1) => index.put(one, { medium, find: "e0", number: 0, position: position++ });
  // A message comes before its conversation is told of, as it may while a scan goes on.
  put(entry("m2", "message", { at: at(5), text: "Dry and grumpy. We open at eight.", direction: "out", conversation: "t1" }));
  put(entry("t1", "conversation", { members: [{ address: "+44 7700 900231" }], group: false }));
  put(
    entry("m1", "message", {
      at: at(2),
      text: "Are the puppets dry by now?",
      direction: "in",
      address: "+447700900231",
      conversation: "t1",
    }),
  );
  put(entry("m3", "message", { at: at(9), text: "Teatrul Lumină wants us", direction: "in", conversation: "t1" }, "erased"));
  put(entry("t2", "conversation", { title: "Wagon crew", members: [{ name: "Bela" }, { name: "Zora" }], group: true }));
  put(entry("m4", "chat", { at: at(30), text: "今晚开场别忘了带灯笼", direction: "in", conversation: "t2" }));
  put(entry("c1", "contact", { name: "Ana Dobre", phones: [{ number: "07700 900231" }] }));
  put(entry("c2", "contact", { name: "Bela Korda", phones: [{ number: "+44 7700 900500" }] }, "hidden"));
  put(entry("k1", "call", { number: "+447700900231", at: at(1), seconds: 58, direction: "in" }));
  put(entry("d1", "event", { title: "Load-in", start: "2024-05-09" }));
  return index;
}

test("a conversation without a title is called as the address book calls who is in it, however the number is written", () => {
  const [latest, other] = filled().talks({ words: "" });
  expect(latest).toMatchObject({ title: "Wagon crew", group: true, messages: 1, erased: 0 });
  expect(other).toMatchObject({ title: "Ana Dobre", group: false, messages: 3, erased: 1, last: Date.parse(at(9)) });
});

test("messages stand in their order, whenever they were told of; words are found without accents and without spaces between them", () => {
  const index = filled();
  expect(index.messages("1:t1").map(({ position }) => position)).toEqual([2, 0, 3]);
  expect(index.hits("1:t1", { words: "lumina TEATRUL" })).toEqual([2]);
  expect(index.talks({ words: "灯笼" }).map(({ title, hits }) => [title, hits])).toEqual([["Wagon crew", 1]]);
  expect(index.talks({ words: "dobre" }).map(({ title }) => title)).toEqual(["Ana Dobre"]);
  expect(index.talks({ words: "nobody says this" })).toEqual([]);
});

test("entries are counted by state and asked for by kind, state, words and digits; what is told again counts once", () => {
  const index = filled();
  expect(index.counts).toEqual({ conversation: 2, contact: 2, call: 1, event: 1 });
  expect(index.ask({ kind: "contact", states: [], words: "" })).toMatchObject({ states: { present: 1, hidden: 1 } });
  expect(index.ask({ kind: "contact", states: ["hidden"], words: "" }).places).toHaveLength(1);
  expect(index.ask({ kind: "contact", states: [], words: "07700900231" }).places).toHaveLength(1);
  expect(index.kindsOf(["1:m1", "1:c1", "1:nobody", "e9"])).toEqual({ message: 1, contact: 1 });
  index.put(entry("c1", "contact", { name: "Ana Dobre" }), { medium: 1, find: "e0", number: 7, position: 3 });
  expect(index.counts.contact).toBe(2);
  expect(index.placesOf(["1:c1"])).toEqual([{ medium: 1, find: "e0", number: 7, position: 3 }]);
});

test("with somebody: by name, by a number however it is written, and by what the address book calls it; in a conversation what oneself wrote too", () => {
  const index = filled();
  const all = { days: null, words: "" };
  const count = (who: string, ...kinds: RecordKind[]) => index.count({ ...all, kinds, who });
  expect(count("Ana", "message", "chat")).toBe(3);
  expect(count("ana DOBRE", "call")).toBe(1);
  expect(count("07700 900231", "message", "call")).toBe(4);
  expect(count("+44 (7700) 900-231", "call")).toBe(1);
  expect(count("900231", "call")).toBe(1);
  expect(count("Zora", "chat")).toBe(1);
  expect(count("Wagon crew", "chat")).toBe(1);
  expect(count("Nobody", "message", "chat", "call", "contact")).toBe(0);
  expect(index.talks({ words: "", who: "ana" }).map(({ title, hits }) => [title, hits])).toEqual([["Ana Dobre", 3]]);
  expect(index.talks({ words: "puppets", who: "zora" })).toEqual([]);
  expect(index.ask({ kind: "call", states: [], words: "", who: "Bela" }).places).toEqual([]);
});

test("states, conditions and days are counted with all filters but their own, and narrow conversations, their hits and what is said of them last", () => {
  const index = filled();
  const told = (id: string, minute: number, state: FoundRecord["state"], condition: FoundRecord["condition"]) =>
    index.put(
      anEntry(
        id,
        "chat",
        { at: at(minute), text: `rope ${id}`, direction: "in", conversation: "t2" },
        { state, store: "telephony", condition },
      ),
      { medium: 1, find: "e0", number: 7, position: minute },
    );
  told("x1", 40, "erased", "damaged");
  told("x2", 41, "erased", "whole");
  told("x3", 60 * 24 + 40, "present", "whole");
  const facets = (narrow: object) => index.facets({ kinds: ["message", "chat"], words: "", ...narrow });
  const first = Date.parse("2024-05-02") / 86_400_000;
  expect(facets({})).toEqual({
    states: { present: 4, erased: 3 },
    conditions: { whole: 6, damaged: 1 },
    days: [
      { day: first, erased: 3, others: 3 },
      { day: first + 1, erased: 0, others: 1 },
    ],
    span: { first, last: first + 1 },
  });
  expect(facets({ states: ["erased"], days: { from: first + 1, to: first + 1 } })).toEqual({
    states: { present: 1 },
    conditions: {},
    days: [{ day: first, erased: 3, others: 0 }],
    span: { first, last: first + 1 },
  });
  expect(facets({ words: "rope", conditions: ["damaged"] })).toMatchObject({ states: { erased: 1 }, conditions: { whole: 2, damaged: 1 } });
  expect(index.talks({ words: "", states: ["erased"] }).map(({ title, hits }) => [title, hits])).toEqual([
    ["Wagon crew", 2],
    ["Ana Dobre", 1],
  ]);
  expect(index.talks({ words: "", conditions: ["damaged"] }).map(({ title, hits }) => [title, hits])).toEqual([["Wagon crew", 1]]);
  expect(index.hits("1:t2", { words: "", states: ["erased"] })).toEqual([1, 2]);
  expect(index.messages("1:t2", { words: "", states: ["erased"] }).map(({ position }) => position)).toEqual([40, 41]);
  expect(index.hits("1:t2", { words: "", states: [], conditions: [] })).toEqual([]);
  const last = (narrow: object) =>
    index.lastOf(["1:t2", "1:t1", "1:nobody"], { words: "", ...narrow }).map((place) => place?.position ?? null);
  expect(last({})).toEqual([60 * 24 + 40, 3, null]);
  expect(last({ states: ["erased"], conditions: ["damaged"] })).toEqual([40, null, null]);
});

test("which of some keys answer a want: as many as are counted, and none that was never told of", () => {
  const index = filled();
  const keys = ["m1", "m2", "m3", "m4", "c1", "c2", "k1", "d1", "t1", "nobody"].map((id) => `1:${id}`);
  const answering = (kinds: RecordKind[], words: string, who: string) => {
    const want = { kinds, words, who, days: null };
    const some = keys.filter(index.holding(want));
    expect(some).toHaveLength(index.count(want));
    return some;
  };
  expect(answering(["message", "chat"], "", "Ana")).toEqual(["1:m1", "1:m2", "1:m3"]);
  expect(answering(["message"], "puppets", "")).toEqual(["1:m1"]);
  expect(answering(["call", "contact"], "", "07700 900231")).toEqual(["1:c1", "1:k1"]);
});

test("one search over everything: hits of each kind, messages for their conversations", () => {
  const index = filled();
  expect(index.hitsOf("dobre")).toEqual({ conversation: 0, contact: 1, call: 0, event: 0 });
  expect(index.hitsOf("07700 900231")).toEqual({ conversation: 0, contact: 1, call: 0, event: 0 });
  expect(index.hitsOf("7700900231")).toEqual({ conversation: 1, contact: 1, call: 1, event: 0 });
  expect(index.hitsOf("load-in")).toEqual({ conversation: 0, contact: 0, call: 0, event: 1 });
});

test("of some days: the first and the last are of them, what has no day is of none", () => {
  const index = filled();
  const [second, ninth] = ["2024-05-02", "2024-05-09"].map((day) => Date.parse(day) / 86_400_000);
  const count = (from: number, to: number, ...kinds: RecordKind[]) => index.count({ kinds, days: { from, to }, who: "", words: "" });
  expect(count(second, second, "message", "chat", "call")).toBe(5);
  expect(count(second + 1, ninth, "message", "chat", "call")).toBe(0);
  expect(count(second + 1, ninth, "event")).toBe(1);
  expect(count(second, ninth - 1, "event")).toBe(0);
  expect(count(second, ninth, "contact")).toBe(0);
  expect(index.hits("1:t1", { words: "", days: { from: second, to: second } })).toEqual([0, 1, 2]);
  expect(index.hits("1:t1", { words: "dry", days: { from: second + 1, to: ninth } })).toEqual([]);
  expect(index.talks({ words: "", days: { from: ninth, to: ninth } })).toEqual([]);
});

const OF_ALL = { kinds: [], states: [], conditions: [], days: null, words: "", apps: [], files: false, earliest: false } as const;

describe("one person's time line", () => {
  const ids = (index: PeopleIndex, key: string, more: Partial<PersonQuery> = {}) =>
    index.askPerson({ ...OF_ALL, key, ...more })?.places.map(({ position }) => position);

  test("both sides of what was written between two, calls and the card, the latest first; what others wrote is not theirs", () => {
    const index = filled();
    // By any of their addresses, however it is written.
    expect(ids(index, "07700 900231")).toEqual([3, 0, 2, 8, 6]);
    expect(ids(index, "+447700900231", { earliest: true })).toEqual([8, 2, 0, 3, 6]);
    expect(index.askPerson({ ...OF_ALL, key: "nobody" })).toBeNull();
  });

  test("each count is of what passes all filters but its own", () => {
    const day = Math.floor(Date.parse(at(0)) / 86_400_000);
    const told = filled().askPerson({ ...OF_ALL, key: "+447700900231", states: ["erased"] });
    expect(told).toMatchObject({
      kinds: { message: 1 },
      states: { present: 4, erased: 1 },
      days: [{ day, erased: 1, others: 0 }],
      files: 0,
    });
    const calls = filled().askPerson({ ...OF_ALL, key: "+447700900231", kinds: ["call"], days: { from: day, to: day } });
    expect(calls).toMatchObject({ kinds: { message: 3, call: 1 }, states: { present: 1 }, days: [{ day, erased: 0, others: 1 }] });
    expect(filled().askPerson({ ...OF_ALL, key: "+447700900231", days: { from: day + 1, to: day + 2 } })?.places).toEqual([]);
  });

  // Of its members the group's own list names one only, as it may when rows of it are gone.
  test("in a group only what they wrote themselves; with files only what carries some; numbers that are skipped are summed", () => {
    const index = new PeopleIndex();
    const put = (one: FoundRecord, position: number) => index.put(one, { medium: 1, find: "e0", number: 0, position });
    put(entry("t", "conversation", { title: "Crew", group: true, members: [{ address: "u1", name: "Ana" }] }), 0);
    put({ ...entry("a", "chat", { at: at(1), text: "mine", address: "u1", direction: "in", conversation: "t" }), skipped: 3 }, 1);
    put(entry("b", "chat", { at: at(2), text: "theirs", address: "u2", direction: "in", conversation: "t" }), 2);
    put(entry("c", "chat", { at: at(3), text: "ours", direction: "out", conversation: "t" }), 3);
    put(entry("d", "chat", { at: at(4), attachments: [{ name: "moon.jpg" }], address: "u1", direction: "in", conversation: "t" }), 4);
    expect(ids(index, "u1")).toEqual([4, 1]);
    expect(ids(index, "u1", { files: true })).toEqual([4]);
    expect(index.askPerson({ ...OF_ALL, key: "u1" })).toMatchObject({ skipped: 3, files: 1, person: { name: "Ana" } });
    // A file goes by its name, or by the last part of its path.
    put(entry("e", "chat", { at: at(5), attachments: [{ path: "/storage/Chat/FW12.JPG" }], address: "u1", conversation: "t" }), 5);
    expect(index.hits("1:t", { words: "moon" })).toEqual([3]);
    expect(index.hits("1:t", { words: "fw12" })).toEqual([4]);
    expect(index.hits("1:t", { words: "storage" })).toEqual([]);
  });

  test("of one app only its messages, and what is of a kind besides; each app's count is of what passes all other filters", () => {
    const index = filled();
    const put = (one: FoundRecord, position: number) => index.put(one, { medium: 1, find: "e9", number: 0, position });
    const chat = (id: string, minute: number, store: string, database: string) => ({
      ...entry(id, "chat", { at: at(minute), text: "see you", address: "+447700900231", direction: "in" }),
      store,
      database,
    });
    put(chat("f1", 40, "fadenwerk", "e9"), 20);
    put(chat("p1", 41, "proposed", "e7"), 21);
    put(chat("p2", 42, "proposed", "e8"), 22);
    const asked = (more: Partial<PersonQuery>) => index.askPerson({ ...OF_ALL, key: "+447700900231", ...more });
    const apps = { telephony: 3, fadenwerk: 1, "1:e7": 1, "1:e8": 1 };
    expect(asked({})).toMatchObject({ apps });
    // What is read as it looks is told apart by its database.
    expect(asked({ apps: ["1:e7"] })).toMatchObject({ apps, kinds: { message: 3, chat: 3, call: 1 }, states: { present: 1 } });
    expect(ids(index, "+447700900231", { apps: ["fadenwerk", "1:e8"] })).toEqual([22, 20]);
    // A call is of no messenger: both are asked for at once.
    expect(ids(index, "+447700900231", { apps: ["telephony"], kinds: ["call"] })).toEqual([3, 0, 2, 8]);
    expect(asked({ states: ["erased"] })?.apps).toEqual({ telephony: 1 });
  });

  test("persons who are joined share one line of time", () => {
    const index = new PeopleIndex();
    const put = (one: FoundRecord, position: number) => index.put(one, { medium: 1, find: "e0", number: 0, position });
    put(entry("a", "chat", { at: at(1), text: "mine", address: "u1", direction: "in", conversation: "t" }), 1);
    put(entry("b", "chat", { at: at(2), text: "theirs", address: "u2", direction: "in", conversation: "t" }), 2);
    index.persons.setHand([{ a: "u1", b: "u2", apart: false }]);
    expect(ids(index, "u2")).toEqual([2, 1]);
  });
});

test("200,000 messages of 3 conversations are taken in, and a word that none holds finds none", () => {
  const index = new PeopleIndex();
  for (const talk of ["a", "b", "c"])
    index.put(entry(talk, "conversation", { title: talk }), { medium: 1, find: "e0", number: 0, position: 0 });
  for (let number = 0; number < 200_000; number++)
    index.put(entry(`m${number}`, "chat", { at: at(number % 60), text: `words of number ${number}`, conversation: "abc"[number % 3] }), {
      medium: 1,
      find: "e0",
      number,
      position: 0,
    });
  expect(
    index
      .talks({ words: "" })
      .map(({ messages }) => messages)
      .reduce((sum, one) => sum + one, 0),
  ).toBe(200_000);
  expect(index.talks({ words: "missing" })).toEqual([]);
  expect(index.hits("1:a", { words: "number 199998" })).toHaveLength(1);
});

test("one number in several ways is one number (ITU-T E.164): where the country is known, or its code stands there", () => {
  // Numbers that Ofcom keeps for fiction.
  expect(addressKey("+44 7700 900123")).toBe("+447700900123");
  expect(addressKey("07700 900123", "GB")).toBe("+447700900123");
  expect(addressKey("(07700) 900-123", "GB")).toBe("+447700900123");
  expect(addressKey("07700 900123")).toBe("07700900123");
  expect(addressKey("PostBarrow71")).toBe("postbarrow71");
  expect(addressKey("Ana@Stage.Example")).toBe("ana@stage.example");
  expect(addressKey("  ")).toBeNull();
  expect(countryOf(["+447700900123", "+447700900124", "+493023125000", "12345"])).toBe("GB");
  expect(countryOf(["12345"])).toBeNull();
});

test("what is folded away is what people do not tell apart, and nothing of other scripts (Unicode Standard Annex 15)", () => {
  expect(folded("ÀÉÎõü")).toBe("aeiou");
  expect(folded("مُحَمَّدـ")).toBe("محمد");
  expect(folded("שָׁלוֹם")).toBe("שלום");
  // The vowel signs of Hindi are letters of their words.
  expect(folded("कठपुतली")).toBe("कठपुतली".normalize("NFKD"));
  expect(folded("ﬁgure ①")).toBe("figure 1");
  expect(wordsOf("  Two  WORDS ")).toEqual(["two", "words"]);
});

test("hits are marked where they stand in the text as it was written", () => {
  const marked = (text: string, query: string) => hitsIn(text, wordsOf(query)).map(([from, to]) => text.slice(from, to));
  expect(marked("Le café, le CAFÉ et le cafe\u0301", "cafe")).toEqual(["café", "CAFÉ", "cafe\u0301"]);
  expect(marked("ﬁnd the ﬁrst", "find first")).toEqual(["ﬁnd", "ﬁrst"]);
  expect(marked("今晚开场别忘了", "开场")).toEqual(["开场"]);
  expect(marked("aaa", "a aa")).toEqual(["aa", "a"]);
  expect(hitsIn("anything", [])).toEqual([]);
  // A text that holds only some of the words is not what was looked for.
  expect(marked("the second wagon", "second lamp")).toEqual([]);
});
