import type { Value } from "../../sqlite/format/record.ts";
import { isId, isMedia, isProse } from "./looks.ts";
import type { Step } from "./mapping.ts";
import { fieldsOf, type LengthForm, stepped, UNWRITTEN } from "./steps.ts";
import { type Form, structured } from "./structures.ts";

/** Values that are taken apart to learn how they are packed. */
const MOST_READ = 300;
/** So many of them must open in one way. */
const MOSTLY = 0.9;
/** Ways into one column that are followed. */
const MOST_LEAVES = 40;
const MOST_DEPTH = 4;

/** Ways into what a column holds: texts in bytes, JSON, fields behind their lengths. The empty way is the column as it stands. */
export function waysInto(values: readonly (Value | undefined)[]): Step[][] {
  const some = values.filter(
    (value): value is string | Uint8Array =>
      (typeof value === "string" && value !== "") || (value instanceof Uint8Array && value.length > 0),
  );
  if (some.length === 0) return [[]];
  const step = Math.max(1, Math.floor(some.length / MOST_READ));
  const read = some.filter((_, index) => index % step === 0).slice(0, MOST_READ * 2);
  const blobs = read.filter((value): value is Uint8Array => value instanceof Uint8Array);
  const bytes = blobs.length > read.length / 2 ? bytesWays(blobs) : textWays(read.filter((value) => typeof value === "string"));
  return [[], ...bytes];
}

const shareOf = <T>(list: readonly T[], is: (one: T) => boolean): number => list.filter(is).length / Math.max(1, list.length);

function textWays(texts: readonly string[]): Step[][] {
  if (shareOf(texts, (text) => /^\s*[[{]/.test(text)) >= MOSTLY) return insideWays("json", texts, []);
  if (shareOf(texts, (text) => /^\s*<[a-z?]/i.test(text)) >= MOSTLY) return insideWays("xml", texts, ["xml"]);
  // Long runs of these letters without a space, that come apart into readable bytes, are packed twice.
  if (shareOf(texts, (text) => text.length >= 8 && text.length % 4 === 0 && /^[A-Za-z0-9+/]+={0,2}$/.test(text)) >= MOSTLY) {
    const blobs = texts.map((text) => stepped(text, ["base64"])).filter((value): value is Uint8Array => value instanceof Uint8Array);
    return bytesWays(blobs).map((way) => ["base64" as const, ...way]);
  }
  return [];
}

const isReadable = (text: unknown): boolean => typeof text === "string" && !UNWRITTEN.test(text);

function bytesWays(blobs: readonly Uint8Array[]): Step[][] {
  if (blobs.length === 0 || shareOf(blobs, isMedia) > 0.5) return [];
  const opened = (steps: Step[]) => blobs.map((blob) => stepped(blob, steps));
  const reads = (steps: Step[]) => shareOf(opened(steps), isReadable);
  if (reads(["utf8"]) >= MOSTLY) {
    const texts = opened(["utf8"]).filter((text): text is string => typeof text === "string");
    const inside = textWays(texts);
    return inside.length > 0 ? inside.map((way) => ["utf8" as const, ...way]) : [["utf8"]];
  }
  // What is all of one short length are keys: letters in them are there by chance.
  if (blobs.every((blob) => isId(blob) && blob.length === blobs[0].length)) return [];
  for (const unpack of ["inflate", "gunzip"] as const) {
    const inner = opened([unpack]).filter((value): value is Uint8Array => value instanceof Uint8Array);
    if (inner.length >= blobs.length * MOSTLY) return bytesWays(inner).map((way) => [unpack, ...way]);
  }
  for (const form of ["msgpack", "cbor"] as const) {
    const ways = insideWays(form, blobs, [form]);
    if (ways.length > 0) return ways;
  }
  const fields = fieldWays(blobs);
  if (fields.length > 0) return fields;
  for (const wide of ["utf16le", "utf16be"] as const)
    if (
      shareOf(blobs, ({ length }) => length % 2 === 0) >= MOSTLY &&
      shareOf(opened([wide]), (text) => isReadable(text) && typeof text === "string" && looksWritten(text)) >= MOSTLY
    )
      return [[wide]];
  return prefixedWays(blobs) ?? (shareOf(opened(["longest"]), (text) => typeof text === "string") >= 0.5 ? [["longest"]] : []);
}

/** Letters of few blocks, as what is written has: chance has them from everywhere. */
const looksWritten = (text: string): boolean => {
  const letters = [...text];
  return new Set(letters.map((letter) => blockOf(letter.codePointAt(0) ?? 0))).size <= Math.max(3, letters.length / 8);
};

/** Scripts of many signs are one block. */
const blockOf = (code: number): number => (code >= 0x3000 && code < 0xd800 ? 0x3000 : code >= 0x1f000 ? 0x1f000 : Math.floor(code / 256));

function prefixedWays(blobs: readonly Uint8Array[]): Step[][] | null {
  let best: { steps: Step[]; score: number } | null = null;
  for (const form of ["u32le", "u32be", "u16le", "u16be", "u8", "varint"] as const satisfies readonly LengthForm[])
    for (let skip = 0; skip <= 16; skip++) {
      const steps: Step[] = [{ prefixed: form, skip }, "utf8"];
      const texts = blobs.map((blob) => stepped(blob, steps));
      const score = shareOf(
        texts,
        (text) => isReadable(text) && typeof text === "string" && (text === "" || isProse(text) || text.length > 1),
      );
      const prose = shareOf(texts, (text) => typeof text === "string" && isProse(text));
      if (score >= 0.97 && prose > 0.4 && (!best || score + prose > best.score)) best = { steps, score: score + prose };
    }
  return best ? [best.steps] : null;
}

/** Every value in what opens in a form by its pointer (RFC 6901); lists are ways of their own, as they stand, but for one that is a row by itself. */
function insideWays(form: Form, values: readonly (string | Uint8Array)[], before: Step[]): Step[][] {
  const opened = values.map((value) => structured(form, value)).filter((one) => one !== null);
  if (opened.length < values.length * MOSTLY) return [];
  const counts = new Map<string, number>();
  const areRows = opened.every(Array.isArray) && isOneRow(opened);
  for (const one of opened) {
    const pointers = areRows ? Object.keys(one).map((at) => `/${at}`) : leaves(one, "", 0);
    for (const pointer of pointers) counts.set(pointer, (counts.get(pointer) ?? 0) + 1);
  }
  return [...counts]
    .sort((a, b) => b[1] - a[1])
    .slice(0, MOST_LEAVES)
    .map(([pointer]) => [...before, { json: pointer }]);
}

/** Are lists the values of one row each, by their places: as many in each, of the same kinds, and of more kinds than one? */
function isOneRow(lists: readonly (readonly unknown[])[]): boolean {
  const [{ length }] = lists;
  if (length < 2 || length > MOST_LEAVES || lists.some((list) => list.length !== length)) return false;
  const kinds = lists[0].map((_, at) => new Set(lists.flatMap((list) => (list[at] === null ? [] : typeof list[at]))));
  return kinds.every(({ size }) => size <= 1) && new Set(kinds.flatMap((some) => [...some])).size > 1;
}

function* leaves(value: unknown, pointer: string, depth: number): Generator<string> {
  if (Array.isArray(value) || typeof value !== "object" || value === null || depth >= MOST_DEPTH) {
    if (pointer !== "") yield pointer;
    return;
  }
  for (const key of Object.keys(value).slice(0, MOST_LEAVES))
    yield* leaves((value as Record<string, unknown>)[key], `${pointer}/${key.replaceAll("~", "~0").replaceAll("/", "~1")}`, depth + 1);
}

/** Fields behind their numbers and lengths (Protocol Buffers encoding), by the way to each. */
function fieldWays(blobs: readonly Uint8Array[]): Step[][] {
  const taken = blobs.map((blob) => fieldsOf(blob));
  if (shareOf(taken, (fields) => fields !== null && fields.length > 0 && fields.length < 64) < MOSTLY) return [];
  const ways: Step[][] = [];
  const follow = (all: readonly Uint8Array[], path: readonly number[]) => {
    if (path.length >= MOST_DEPTH || ways.length >= MOST_LEAVES) return;
    const numbers = new Set<number>();
    const fields = all.map((one) => fieldsOf(one) ?? []);
    for (const some of fields) for (const { number } of some) numbers.add(number);
    if (numbers.size > 64) return;
    for (const number of numbers) {
      const values = fields.flatMap((some) => some.find((one) => one.number === number)?.value ?? []);
      const inner = values.filter((value): value is Uint8Array => value instanceof Uint8Array);
      const way: Step = { field: [...path, number] };
      if (inner.length < values.length / 2) ways.push([way]);
      else if (shareOf(inner, (bytes) => isReadable(stepped(bytes, ["utf8"]))) >= MOSTLY) ways.push([way, "utf8"]);
      else follow(inner, [...path, number]);
    }
  };
  follow(blobs, []);
  return ways;
}
