import { Gunzip, Unzlib } from "fflate";
import type { Value } from "../../sqlite/format/record.ts";
import type { Step } from "./mapping.ts";
import { structured } from "./structures.ts";

/** Bytes of one value that are unpacked or taken apart at most. */
const MOST_BYTES = 1_048_576;

/** Takes a value as far as the steps lead. Null: they lead to nothing. Undefined: the value is not known. */
export function stepped(value: Value | undefined, steps: readonly Step[] | undefined): Value | undefined {
  if (value === undefined || !steps) return value;
  let now: unknown = value;
  for (const step of steps) {
    if (now === null || now === undefined) return null;
    now = take(now, step);
  }
  return asValue(now);
}

/** What can stand in a column. A list or an object is told as JSON. */
function asValue(value: unknown): Value {
  if (value === null || value === undefined) return null;
  if (typeof value === "string" || typeof value === "number" || typeof value === "bigint" || value instanceof Uint8Array) return value;
  if (typeof value === "boolean") return value ? 1 : 0;
  try {
    return JSON.stringify(value, (_, one) => (typeof one === "bigint" ? String(one) : one));
  } catch (cause) {
    // Lists in lists in lists, deeper than anybody writes them: a parser takes what a writer cannot.
    if (cause instanceof RangeError) return null;
    throw cause;
  }
}

function take(value: unknown, step: Step): unknown {
  if (typeof step === "string") return BY_NAME[step](value);
  if ("json" in step) return pointed(typeof value === "object" && !(value instanceof Uint8Array) ? value : parsed(value), step.json);
  if ("prefixed" in step) return value instanceof Uint8Array ? prefixed(value, step.prefixed, step.skip) : null;
  if ("field" in step) return value instanceof Uint8Array ? fieldOf(value, step.field) : null;
  if ("bit" in step) return typeof value === "number" ? Math.floor(value / 2 ** step.bit) % 2 : null;
  return step.map[String(value)] ?? null;
}

const decoder = (label: string) => {
  const decode = new TextDecoder(label, { fatal: label === "utf-8" });
  return (value: unknown): unknown => {
    if (!(value instanceof Uint8Array)) return value;
    try {
      return decode.decode(value);
    } catch {
      return null;
    }
  };
};

const BY_NAME: Record<Extract<Step, string>, (value: unknown) => unknown> = {
  utf8: decoder("utf-8"),
  utf16le: decoder("utf-16le"),
  utf16be: decoder("utf-16be"),
  latin1: decoder("windows-1252"),
  inflate: (value) => (value instanceof Uint8Array ? unpacked(value, (taken) => new Unzlib(taken)) : null),
  gunzip: (value) => (value instanceof Uint8Array ? unpacked(value, (taken) => new Gunzip(taken)) : null),
  base64: (value) => (typeof value === "string" ? fromBase64(value) : null),
  msgpack: (value) => structured("msgpack", value),
  cbor: (value) => structured("cbor", value),
  xml: (value) => structured("xml", value instanceof Uint8Array ? BY_NAME.utf8(value) : value),
  integer: (value) =>
    typeof value === "string" && /^-?\d{1,16}$/.test(value) ? Number(value) : typeof value === "number" ? Math.trunc(value) : null,
  longest: (value) => (value instanceof Uint8Array ? longestText(value) : value),
};

function unpacked(
  bytes: Uint8Array,
  open: (taken: (piece: Uint8Array) => void) => { push(piece: Uint8Array, last?: boolean): void },
): Uint8Array | null {
  const pieces: Uint8Array[] = [];
  let length = 0;
  const stream = open((piece) => {
    length += piece.length;
    if (length > MOST_BYTES) throw new RangeError("too much");
    pieces.push(piece);
  });
  try {
    for (let at = 0; at < bytes.length; at += 4096) stream.push(bytes.subarray(at, at + 4096), at + 4096 >= bytes.length);
  } catch {
    if (length === 0) return null;
  }
  const whole = new Uint8Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    whole.set(piece, at);
    at += piece.length;
  }
  return whole;
}

function fromBase64(text: string): Uint8Array | null {
  if (text.length === 0 || text.length > MOST_BYTES || !/^[A-Za-z0-9+/_-]+={0,2}$/.test(text)) return null;
  try {
    const plain = atob(text.replaceAll("-", "+").replaceAll("_", "/"));
    return Uint8Array.from(plain, (letter) => letter.charCodeAt(0));
  } catch {
    return null;
  }
}

const parsed = (value: unknown): unknown => structured("json", value instanceof Uint8Array ? BY_NAME.utf8(value) : value);

/** RFC 6901 §4. Only what an object has of its own. */
export function pointed(value: unknown, pointer: string): unknown {
  if (pointer === "") return value;
  let now = value;
  for (const part of pointer.slice(1).split("/")) {
    const key = part.replaceAll("~1", "/").replaceAll("~0", "~");
    if (typeof now !== "object" || now === null || !Object.hasOwn(now, key)) return null;
    now = (now as Record<string, unknown>)[key];
  }
  return now;
}

export type LengthForm = Extract<Step, { prefixed: string }>["prefixed"];
/** Bytes behind `skip` that their own length stands before. Null: it leads out of them. */
export function prefixed(bytes: Uint8Array, form: LengthForm, skip: number): Uint8Array | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = skip;
  let length = 0;
  if (form === "varint") {
    const read = varint(bytes, at);
    if (!read) return null;
    [length, at] = read;
  } else {
    const size = form === "u8" ? 1 : form.startsWith("u16") ? 2 : 4;
    if (at + size > bytes.length) return null;
    const little = form.endsWith("le");
    length = size === 1 ? bytes[at] : size === 2 ? view.getUint16(at, little) : view.getUint32(at, little);
    at += size;
  }
  return at + length <= bytes.length ? bytes.subarray(at, at + length) : null;
}

/** Protocol Buffers, "Encoding": base 128 varints. @returns value and what follows */
function varint(bytes: Uint8Array, from: number): [number, number] | null {
  let value = 0;
  for (let index = 0; index < 8; index++) {
    const one = bytes[from + index];
    if (one === undefined) return null;
    value += (one & 0x7f) * 2 ** (7 * index);
    if (one < 0x80) return [value, from + index + 1];
  }
  return null;
}

/** One field of a message in Protocol Buffers' encoding: a varint, or bytes. */
export interface Field {
  readonly number: number;
  readonly value: number | Uint8Array;
}

/** Fields of a message are few. */
const MOST_FIELDS = 4096;
/** All fields of a message ("Encoding" of Protocol Buffers). Null: it is none. */
export function fieldsOf(bytes: Uint8Array): Field[] | null {
  if (bytes.length === 0 || bytes.length > MOST_BYTES) return null;
  const fields: Field[] = [];
  let at = 0;
  while (at < bytes.length && fields.length < MOST_FIELDS) {
    const tag = varint(bytes, at);
    if (!tag) return null;
    const number = Math.floor(tag[0] / 8);
    if (number === 0 || number > 536_870_911) return null;
    at = tag[1];
    switch (tag[0] % 8) {
      case 0: {
        const value = varint(bytes, at);
        if (!value) return null;
        fields.push({ number, value: value[0] });
        at = value[1];
        break;
      }
      case 1:
      case 5: {
        const size = tag[0] % 8 === 1 ? 8 : 4;
        if (at + size > bytes.length) return null;
        const view = new DataView(bytes.buffer, bytes.byteOffset + at, size);
        fields.push({ number, value: size === 8 ? Number(view.getBigInt64(0, true)) : view.getInt32(0, true) });
        at += size;
        break;
      }
      case 2: {
        const length = varint(bytes, at);
        if (!length || length[1] + length[0] > bytes.length) return null;
        fields.push({ number, value: bytes.subarray(length[1], length[1] + length[0]) });
        at = length[1] + length[0];
        break;
      }
      default:
        return null;
    }
  }
  return at === bytes.length ? fields : null;
}

function fieldOf(bytes: Uint8Array, path: readonly number[]): unknown {
  let now: unknown = bytes;
  for (const number of path) {
    const fields = now instanceof Uint8Array ? fieldsOf(now) : null;
    now = fields?.find((one) => one.number === number)?.value ?? null;
    if (now === null) return null;
  }
  return now;
}

/** Runs shorter than this are chance. */
const LEAST_RUN = 2;
/** What nobody writes: control characters but for those that part lines and columns, and what stands for bytes that are no text. */
export const UNWRITTEN = /(?:(?![\t\n\r])\p{Cc}|\ufffd)+/u;
const lossy = new TextDecoder("utf-8");
/** The longest stretch of bytes that reads as text: for what is packed in a way that nobody told of. */
export function longestText(bytes: Uint8Array): string | null {
  let best = "";
  for (const run of lossy.decode(bytes.subarray(0, MOST_BYTES)).split(UNWRITTEN)) if (run.length > best.length) best = run;
  return best.length >= LEAST_RUN ? best : null;
}
