import { decode as decodeMessagePack } from "@msgpack/msgpack";
import { decode as decodeCbor } from "cborg";
import { XMLParser } from "fast-xml-parser";

/** How values with names and lists in them are written down. */
export const FORMS = ["json", "msgpack", "cbor", "xml"] as const;
export type Form = (typeof FORMS)[number];

/** Letters or bytes of one value that are taken apart at most. */
const MOST = 1_048_576;
/** Lists in lists that are followed: more are nobody's message. */
const MOST_DEPTH = 32;

/** A length that is said and not there must not ask for memory. */
const BOUNDS = { maxStrLength: MOST, maxBinLength: MOST, maxArrayLength: 65_536, maxMapLength: 65_536, maxExtLength: MOST };
const xml = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: "@", parseTagValue: false, parseAttributeValue: false });

const DECODE: Readonly<Record<Form, (value: string | Uint8Array) => unknown>> = {
  // RFC 8259: an object or a list. A number or a word alone is one as it stands.
  json: (value) => (typeof value === "string" && /^\s*[[{]/.test(value) ? JSON.parse(value) : null),
  // MessagePack specification; what follows behind the value makes it none.
  msgpack: (value) => (value instanceof Uint8Array ? plain(decodeMessagePack(value, BOUNDS), 0) : null),
  // RFC 8949. Tags are left out: what they stand on is told.
  cbor: (value) => (value instanceof Uint8Array ? plain(decodeCbor(value, { useMaps: true, tags: UNTAGGED, allowBigInt: true }), 0) : null),
  // XML 1.0 §3. A document type may declare what grows without end: nobody's message needs one.
  xml: (value) =>
    typeof value === "string" && value.trimStart().startsWith("<") && !/<!(?:DOCTYPE|ENTITY)/i.test(value) ? xml.parse(value) : null,
};

/** Tags of moments, of numbers, and of identifiers (RFC 8949 §3.4, RFC 9562). */
const UNTAGGED = Object.fromEntries([0, 1, 2, 3, 4, 5, 32, 33, 34, 37].map((tag) => [tag, (inner: () => unknown) => inner()]));

/** Maps become objects, so that all forms are asked alike; numbers beyond 2^53 stay as they are. */
function plain(value: unknown, depth: number): unknown {
  if (depth > MOST_DEPTH) return null;
  if (Array.isArray(value)) return value.map((one) => plain(one, depth + 1));
  if (value instanceof Map) return Object.fromEntries([...value].map(([key, one]) => [String(key), plain(one, depth + 1)]));
  if (value instanceof Date) return value.getTime();
  if (typeof value !== "object" || value === null || value instanceof Uint8Array) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, plain(one, depth + 1)]));
}

/** What was taken apart last: a message asks for one value after the other of the same. */
let last: { readonly form: Form; readonly of: unknown; readonly is: object | null } | null = null;

/** Takes a value apart into objects and lists. Null: it is none in this form. */
export function structured(form: Form, value: unknown): object | null {
  if ((typeof value !== "string" && !(value instanceof Uint8Array)) || value.length > MOST) return null;
  if (last?.form === form && last.of === value) return last.is;
  let is: unknown = null;
  try {
    is = DECODE[form](value);
  } catch {
    // Not every value of a column is written alike.
  }
  last = { form, of: value, is: typeof is === "object" && !(is instanceof Uint8Array) ? is : null };
  return last.is;
}
