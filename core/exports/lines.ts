/** A content line of vCard (RFC 6350 §3.3) or iCalendar (RFC 5545 §3.1). */
export interface ContentLine {
  /** In upper case, without the group before its dot. */
  readonly name: string;
  /** In upper case names; a parameter without a name (vCard 2.1: `TEL;CELL`) counts as a TYPE. */
  readonly parameters: ReadonlyMap<string, readonly string[]>;
  /** As it stands, escapes and all; quoted-printable is decoded. */
  readonly value: string;
  /** Byte offset of the line in the file. */
  readonly at: number;
}

/** Lines longer than this (a photo is some 100 KB) are cut: nothing that is read from them is longer. */
const MAX_LINE = 16 * 1024 * 1024;
const SPACE = 0x20;
const TAB = 0x09;
const utf8 = new TextDecoder("utf-8");

interface RawLine {
  readonly bytes: number[];
  readonly at: number;
}

const EQUALS = 0x3d;
const COLON = 0x3a;
/** Does a quoted-printable value go on in the next line (RFC 2045 §6.7, soft line break)? That line is no fold, even if it begins with a space. */
const breaksSoftly = (line: readonly number[]): boolean =>
  line[line.length - 1] === EQUALS && /QUOTED-PRINTABLE/i.test(latin(line.slice(0, Math.max(0, line.indexOf(COLON)))));

/** Lines as bytes: a fold may stand in the middle of a character, so characters are made of them only when they are whole. */
function* unfolded(bytes: Uint8Array): Generator<RawLine> {
  let line: RawLine = { bytes: [], at: 0 };
  let at = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf ? 3 : 0;
  while (at < bytes.length) {
    const newline = bytes.indexOf(0x0a, at);
    const next = newline < 0 ? bytes.length : newline + 1;
    let end = newline < 0 ? bytes.length : newline;
    if (end > at && bytes[end - 1] === 0x0d) end--;
    const goesOn = breaksSoftly(line.bytes);
    if (goesOn) line.bytes.pop();
    const isFold = !goesOn && (bytes[at] === SPACE || bytes[at] === TAB) && line.bytes.length > 0;
    if (!isFold && !goesOn) {
      if (line.bytes.length > 0) yield line;
      line = { bytes: [], at };
    }
    for (let place = isFold ? at + 1 : at; place < end && line.bytes.length < MAX_LINE; place++) line.bytes.push(bytes[place]);
    at = next;
  }
  if (line.bytes.length > 0) yield line;
}

const charsets = new Map<string, { decode(bytes: Uint8Array): string }>();

function decoderOf(charset: string | undefined): { decode(bytes: Uint8Array): string } {
  if (!charset) return utf8;
  let decoder = charsets.get(charset);
  if (!decoder) {
    try {
      decoder = new TextDecoder(charset);
    } catch {
      decoder = utf8;
    }
    charsets.set(charset, decoder);
  }
  return decoder;
}

/** Quoted-printable (RFC 2045 §6.7) as bytes. */
function quotedPrintable(text: string): Uint8Array {
  const bytes: number[] = [];
  for (let at = 0; at < text.length; at++) {
    const code = text[at] === "=" ? Number.parseInt(text.slice(at + 1, at + 3), 16) : Number.NaN;
    if (Number.isNaN(code)) bytes.push(text.charCodeAt(at) & 0xff);
    else {
      bytes.push(code);
      at += 2;
    }
  }
  return Uint8Array.from(bytes);
}

const latin = (bytes: readonly number[]): string => {
  let text = "";
  for (const byte of bytes) text += String.fromCharCode(byte);
  return text;
};

/** Name, parameters and value; quoted values may hold colons and semicolons. */
function taken(line: RawLine): { name: string; parameters: Map<string, string[]>; value: number[] } | null {
  let quoted = false;
  const cuts: number[] = [];
  let colon = -1;
  for (let at = 0; at < line.bytes.length; at++) {
    const byte = line.bytes[at];
    if (byte === 0x22) quoted = !quoted;
    else if (!quoted && byte === 0x3b) cuts.push(at);
    else if (!quoted && byte === 0x3a) {
      colon = at;
      break;
    }
  }
  if (colon < 0) return null;
  const bounds = [...cuts, colon];
  const part = (from: number, to: number) => utf8.decode(Uint8Array.from(line.bytes.slice(from, to)));
  const name = part(0, bounds[0]).toUpperCase();
  const parameters = new Map<string, string[]>();
  for (let index = 0; index + 1 < bounds.length; index++) {
    const text = part(bounds[index] + 1, bounds[index + 1]);
    const equals = text.indexOf("=");
    const key = (equals < 0 ? "TYPE" : text.slice(0, equals)).toUpperCase();
    const values = (equals < 0 ? text : text.slice(equals + 1).replaceAll('"', "")).split(",");
    parameters.set(key, [...(parameters.get(key) ?? []), ...values]);
  }
  return { name: name.slice(name.lastIndexOf(".") + 1), parameters, value: line.bytes.slice(colon + 1) };
}

/** All content lines of a file. What is none (no colon) is left out. */
export function* contentLines(bytes: Uint8Array): Generator<ContentLine> {
  for (const raw of unfolded(bytes)) {
    const line = taken(raw);
    if (!line) continue;
    const decoder = decoderOf(line.parameters.get("CHARSET")?.[0]);
    const { name, parameters } = line;
    const value = isQuoted(parameters)
      ? decoder.decode(quotedPrintable(latin(line.value))).replaceAll("\r\n", "\n")
      : decoder.decode(Uint8Array.from(line.value));
    yield { name, parameters, value, at: raw.at };
  }
}

/** Named by ENCODING, or by itself as vCard 2.1 allows. */
const isQuoted = (parameters: ReadonlyMap<string, readonly string[]>): boolean =>
  [...(parameters.get("ENCODING") ?? []), ...(parameters.get("TYPE") ?? [])].some((one) => one.toUpperCase() === "QUOTED-PRINTABLE");

/** A text value without its escapes (RFC 6350 §3.4, RFC 5545 §3.3.11). */
export const plainText = (value: string): string =>
  value.replace(/\\([\\,;:nN])/g, (_, one: string) => (one === "n" || one === "N" ? "\n" : one));

/** The parts of a structured value (RFC 6350 §3.4): semicolons that are not escaped part them. */
export function structured(value: string): string[] {
  const all = [""];
  for (let at = 0; at < value.length; at++) {
    if (value[at] === "\\" && at + 1 < value.length) all[all.length - 1] += value[at] + value[++at];
    else if (value[at] === ";") all.push("");
    else all[all.length - 1] += value[at];
  }
  return all.map(plainText);
}
