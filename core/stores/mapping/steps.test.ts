import { deflateSync, gzipSync } from "node:zlib";
import fc from "fast-check";
import { expect, test } from "vitest";
import type { Value } from "../../sqlite/format/record.ts";
import { isAddress, isFile, isMedia, isPersonName, isProse } from "./looks.ts";
import { StepSchema } from "./mapping.ts";
import { fieldsOf, pointed, prefixed, stepped } from "./steps.ts";
import { momentOf, timeOfDay, timeOfText } from "./times.ts";
import { hints } from "./words.ts";

const bytes = (...list: number[]) => new Uint8Array(list);
const text = (words: string) => new TextEncoder().encode(words);

test("pointers into JSON: the examples of RFC 6901 §5", () => {
  const example = { foo: ["bar", "baz"], "": 0, "a/b": 1, "c%d": 2, "e^f": 3, "g|h": 4, "i\\j": 5, 'k"l': 6, " ": 7, "m~n": 8 };
  const said: Record<string, unknown> = {
    "": example,
    "/foo": ["bar", "baz"],
    "/foo/0": "bar",
    "/": 0,
    "/a~1b": 1,
    "/c%d": 2,
    "/e^f": 3,
    "/g|h": 4,
    "/i\\j": 5,
    '/k"l': 6,
    "/ ": 7,
    "/m~0n": 8,
  };
  for (const [pointer, value] of Object.entries(said)) expect(pointed(example, pointer)).toEqual(value);
  // What an object has from elsewhere is none of its own.
  for (const none of ["/__proto__", "/constructor/name", "/foo/length/x", "/foo/9"]) expect(pointed(example, none)).toBeNull();
});

test("fields behind their numbers: the examples of Protocol Buffers' Encoding", () => {
  expect(fieldsOf(bytes(0x08, 0x96, 0x01))).toEqual([{ number: 1, value: 150 }]);
  expect(fieldsOf(bytes(0x12, 0x07, ...text("testing")))).toEqual([{ number: 2, value: text("testing") }]);
  expect(stepped(bytes(0x1a, 0x03, 0x08, 0x96, 0x01), [{ field: [3, 1] }])).toBe(150);
  for (const none of [
    bytes(),
    bytes(0),
    bytes(0x12, 0x7f, 1),
    bytes(0x08),
    bytes(0x0b, 1),
    bytes(0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 1),
  ])
    expect(fieldsOf(none)).toBeNull();
});

test("what is taken apart: the examples of MessagePack's page, of RFC 8949, appendix A, and of XML 1.0", () => {
  const compact = bytes(0x82, 0xa7, ...text("compact"), 0xc3, 0xa6, ...text("schema"), 0x00);
  expect(stepped(compact, ["msgpack", { json: "/compact" }])).toBe(1);
  expect(stepped(compact, ["msgpack", { json: "/schema" }])).toBe(0);
  expect(stepped(compact, ["msgpack"])).toBe('{"compact":true,"schema":0}');
  const hex = (digits: string) => new Uint8Array(Buffer.from(digits, "hex"));
  expect(stepped(hex("a26161016162820203"), ["cbor", { json: "/b/1" }])).toBe(3);
  expect(stepped(hex("a201020304"), ["cbor", { json: "/3" }])).toBe(4);
  // A tagged moment: what the tag stands on.
  expect(stepped(hex("81c074323031332d30332d32315432303a30343a30305a"), ["cbor", { json: "/0" }])).toBe("2013-03-21T20:04:00Z");
  expect(stepped(hex("811bffffffffffffffff"), ["cbor", { json: "/0" }])).toBe(18446744073709551615n);
  expect(stepped("<greeting>Hello, world!</greeting>", ["xml", { json: "/greeting" }])).toBe("Hello, world!");
  expect(stepped('<?xml version="1.0"?><a><b c="1">x &lt; y</b><b>z</b></a>', ["xml", { json: "/a/b/0/@c" }])).toBe("1");
  expect(stepped(text("<a><b>x &lt; y</b></a>"), ["xml", { json: "/a/b" }])).toBe("x < y");
});

test("what says more than it holds, or grows when it is opened, is nothing; one such value does not spoil the next", () => {
  // A list of four thousand million, a map as large, a text of two thousand million letters: of a few bytes each.
  const many = [
    bytes(0xdd, 0xff, 0xff, 0xff, 0xff, 1),
    bytes(0xdf, 0xff, 0xff, 0xff, 0xff, 1, 1),
    bytes(0xdb, 0x7f, 0xff, 0xff, 0xff, 0x61),
  ];
  for (const one of many) expect(stepped(one, ["msgpack", { json: "/0" }])).toBeNull();
  for (const one of [bytes(0x9b, 0, 0, 0, 1, 0, 0, 0, 0, 1), bytes(0x5b, 0, 0, 0, 1, 0, 0, 0, 0, 1), bytes(0x9f)])
    expect(stepped(one, ["cbor", { json: "/0" }])).toBeNull();
  // Lists in lists in lists.
  for (const form of ["msgpack", "cbor"] as const) {
    const deep = new Uint8Array(200_000).fill(form === "msgpack" ? 0x91 : 0x81);
    expect(stepped(deep, [form, { json: "/0" }])).toBeNull();
    const some = new Uint8Array([...deep.subarray(0, 60), 7]);
    expect(stepped(some.subarray(-20), [form, { json: "/0".repeat(19) }])).toBe(7);
    expect(stepped(some, [form, { json: "/0".repeat(60) }])).toBeNull();
  }
  for (const text of [`[${"[".repeat(100_000)}${"]".repeat(100_000)}]`, `{"a":${"[".repeat(100_000)}${"]".repeat(100_000)}}`])
    expect(stepped(text, [{ json: text.startsWith("[") ? "/0" : "/a" }])).toBeNull();
  const laughs = '<!DOCTYPE l [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><l>&b;&b;&b;</l>';
  expect(stepped(laughs, ["xml", { json: "/l" }])).toBeNull();
  expect(stepped("<a>".repeat(100_000), ["xml", { json: "/a" }])).toBeNull();
  expect(stepped("<__proto__><x>1</x></__proto__>", ["xml", { json: "/__proto__/x" }])).not.toBe(undefined);
  expect(({} as { x?: unknown }).x).toBeUndefined();
  expect(stepped("<a>well</a>", ["xml", { json: "/a" }])).toBe("well");
});

test("values are unpacked in turn, and what leads nowhere is nothing", () => {
  const words = "ننطلق غدا 今晚开场 🎭";
  expect(stepped(text(words), ["utf8"])).toBe(words);
  expect(stepped(new Uint8Array(Buffer.from(words, "utf16le")), ["utf16le"])).toBe(words);
  expect(stepped(new Uint8Array(deflateSync(text(words))), ["inflate", "utf8"])).toBe(words);
  expect(stepped(new Uint8Array(gzipSync(text(JSON.stringify({ q: { w: words } })))), ["gunzip", "utf8", { json: "/q/w" }])).toBe(words);
  expect(stepped(Buffer.from(words).toString("base64"), ["base64", "utf8"])).toBe(words);
  expect(stepped(bytes(9, 9, 2, 0, 0x68, 0x69, 7), [{ prefixed: "u16le", skip: 2 }, "utf8"])).toBe("hi");
  expect(stepped(37, [{ bit: 2 }])).toBe(1);
  expect(stepped(37, [{ bit: 1 }])).toBe(0);
  expect(stepped(undefined, ["utf8"])).toBeUndefined();
  for (const [value, step] of [
    [bytes(0xff, 0xfe, 0xfd), "utf8"],
    ["{ not json", { json: "/a" }],
    [text("xx"), "inflate"],
    ["!!", "base64"],
    [5, { prefixed: "u8", skip: 0 }],
  ] as const)
    expect(stepped(value as Value, [step as never])).toBeNull();
  expect(prefixed(bytes(200, 1), "u8", 0)).toBeNull();
});

test("what is packed to fill the memory is stopped after its first megabyte", () => {
  const bomb = new Uint8Array(deflateSync(new Uint8Array(64 * 1024 * 1024)));
  expect(bomb.length).toBeLessThan(70_000);
  const out = stepped(bomb, ["inflate"]);
  expect(out instanceof Uint8Array ? out.length : 0).toBeLessThan(2 * 1024 * 1024);
});

test("no value and no steps make it throw or hang", () => {
  const value = fc.oneof(
    fc.string({ maxLength: 200 }),
    fc.uint8Array({ maxLength: 200 }),
    fc.integer(),
    fc.double(),
    fc.constant(null),
    fc.bigInt(),
    fc.json(),
  );
  const step = fc.oneof(
    fc.constantFrom("utf8", "utf16le", "utf16be", "latin1", "inflate", "gunzip", "base64", "msgpack", "cbor", "xml", "integer", "longest"),
    fc.record({ json: fc.constantFrom("/a", "/0/b", "", "/~", "/a~2") }),
    fc.record({ prefixed: fc.constantFrom("u8", "u16le", "u32be", "varint"), skip: fc.integer({ min: 0, max: 9 }) }),
    fc.record({ field: fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 4 }) }),
    fc.record({ bit: fc.integer({ min: 0, max: 52 }) }),
  );
  fc.assert(
    fc.property(value, fc.array(step, { maxLength: 4 }), (one, steps) => {
      stepped(
        one as Value,
        steps.map((some) => StepSchema.parse(some)),
      );
    }),
    { numRuns: 2000 },
  );
});

const MOMENT = Date.UTC(2024, 1, 29, 13, 37, 42);
test.each([
  // Each worked out by hand from its epoch: 2024-02-29 13:37:42 UTC.
  ["s", 1970, 1_709_213_862],
  ["ms", 1970, 1_709_213_862_000],
  ["us", 1970, 1_709_213_862_000_000],
  ["ns", 1970, 1_709_213_862_000_000_000n],
  ["s", 2001, 730_906_662],
  ["100ns", 1601, 133_536_874_620_000_000n],
  ["us", 1601, 13_353_687_462_000_000n],
  ["s", 1904, 3_792_058_662],
  ["100ns", 1, 638_448_106_620_000_000n],
  ["day", 4713, 2_460_370.067847222],
  ["day", 1899, 45_351.56784722222],
] as const)("a time in %s since %s", (unit, epoch, value) => {
  expect(Math.abs((momentOf({ unit, epoch }, value, undefined) ?? 0) - MOMENT)).toBeLessThan(2);
});

test("times that are written out: ISO 8601, RFC 5322 §3.3, and in other orders; what is none is none", () => {
  expect(timeOfText("2024-02-29T13:37:42Z", "iso")).toBe(MOMENT);
  expect(timeOfText("2024-02-29T15:37:42.000+02:00", "iso")).toBe(MOMENT);
  expect(timeOfText("20240229T133742Z", "iso")).toBe(MOMENT);
  expect(timeOfText("29.02.2024 13:37:42", "day first")).toBe(MOMENT);
  expect(timeOfText("2/29/2024 13:37:42", "month first")).toBe(MOMENT);
  // RFC 5322 A.1.1: its own example of a date.
  expect(timeOfText("Fri, 21 Nov 1997 09:55:06 -0600", "rfc 5322")).toBe(Date.UTC(1997, 10, 21, 15, 55, 6));
  for (const none of ["2024-13-01", "2024-02-29T25:00", "yesterday", "", "99.99.2024 10:00"]) {
    expect(timeOfText(none, "iso")).toBeNaN();
    expect(timeOfText(none, "day first")).toBeNaN();
  }
  // ISO/IEC 9899, 7.27.3.1: its own example of asctime.
  expect(timeOfText("Sun Sep 16 01:03:52 1973", "month named")).toBe(Date.UTC(1973, 8, 16, 1, 3, 52));
  expect(timeOfText("Thu Feb 29 15:37:42 GMT+02:00 2024", "month named")).toBe(MOMENT);
  expect(timeOfText("29 Feb 2024, 13:37:42", "month named")).toBe(MOMENT);
  expect(timeOfText("February 29, 2024 at 1:37:42 PM", "month named")).toBe(MOMENT);
  expect(timeOfText("2/29/2024 1:37:42 p.m.", "month first")).toBe(MOMENT);
  // Noon and midnight begin their halves of the day.
  expect(timeOfText("2/29/2024 12:05 AM", "month first")).toBe(Date.UTC(2024, 1, 29, 0, 5));
  expect(timeOfText("2/29/2024 12:05 PM", "month first")).toBe(Date.UTC(2024, 1, 29, 12, 5));
  for (const none of ["Feb 30x, 2024", "Foo 3, 2024", "29 Feb 2024, 14:00 PM", "may be later", "3 kinds 2024"])
    expect(timeOfText(none, "month named"), none).toBeNaN();
  const digits = { text: "iso", unit: "ms", epoch: 1970 } as const;
  expect(momentOf(digits, 20_240_229_133_742, undefined)).toBe(MOMENT);
  expect(momentOf({ ...digits, plus: { from: { col: "m.b" }, unit: "s" } }, 20_240_229, 49_062)).toBe(MOMENT);
  expect(momentOf(digits, 20_241_399, undefined)).toBeUndefined();
  expect(timeOfDay("13:37:42")).toBe(MOMENT % 86_400_000);
  expect(timeOfDay("24:00")).toBeNaN();
});

test("a day and a time of day are one moment, and where one is lost there is none", () => {
  const split = { unit: "day", epoch: 1970, plus: { from: { col: "m.b" }, unit: "s" } } as const;
  expect(momentOf(split, 19_782, 49_062)).toBe(MOMENT);
  expect(momentOf(split, 19_782, undefined)).toBeUndefined();
  expect(momentOf(split, undefined, 49_062)).toBeUndefined();
});

test("what texts look like", () => {
  for (const prose of ["Ring me tonight", "今晚开场", "🎭🎭", "Сбор в 10:29 у балагана"]) expect(isProse(prose), prose).toBe(true);
  for (const none of ["u-81f650", "IMG_1.jpg", "https://stage.example/ab", "17"]) expect(isProse(none), none).toBe(false);
  for (const name of ["Ansa Vask", "戏柳青", "نجيب الخياط", "Käthe Holzkopf"]) expect(isPersonName(name), name).toBe(true);
  for (const none of ["ring me", "Act 3", "why?", "a@b"]) expect(isPersonName(none), none).toBe(false);
  for (const address of ["+44 7700 900123", "anna@stage.example", "@ansa.689", "p2836"]) expect(isAddress(address), address).toBe(true);
  for (const file of ["media/a/b.jpg", "Programm-1.pdf", "名单-7.csv"]) expect(isFile(file), file).toBe(true);
  for (const none of ["barnaby.cr.12", "Well. Then go", "text/plain"]) expect(isFile(none), none).toBe(false);
  expect(isMedia(bytes(0xff, 0xd8, 0xff, 0xe0))).toBe(true);
  expect(isMedia(text("BEGIN"))).toBe(false);
});

test("words in names of columns are hints in several languages, whatever stands between them", () => {
  expect(hints("is_outgoing", "out")).toBe(true);
  expect(hints("isFromMe", "out")).toBe(true);
  expect(hints("fecha_enviado", "sent")).toBe(true);
  expect(hints("gelöscht", "deleted")).toBe(true);
  expect(hints("outer", "out")).toBe(false);
  expect(hints("zq17", "deleted")).toBe(false);
});
