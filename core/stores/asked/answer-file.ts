import { z } from "zod";
import type { ByteSource } from "../../bytes/source.ts";

/**
 * The file that a provider's answer is kept in: JSON (RFC 8259), an object of `uri`, `columns` and `rows`, a row in a line of its own, so that it is written
 * and read without ever being whole in memory. In copies of before a row is an object over several lines.
 */
export interface AnswerHead {
  readonly uri: string;
  readonly columns: readonly string[];
}

/** Text, no value, or bytes. */
export type AnswerValue = string | null | Uint8Array;
export interface AnswerRow {
  readonly values: readonly AnswerValue[];
  /** Byte offset in the file. */
  readonly at: number;
}

export const answerBegin = ({ uri, columns }: AnswerHead): string =>
  `{"uri":${JSON.stringify(uri)},"columns":${JSON.stringify(columns)},"rows":[`;
export const answerRow = (values: readonly AnswerValue[], isFirst: boolean): string =>
  `${isFirst ? "" : ","}\n  ${JSON.stringify(values.map((value) => (value instanceof Uint8Array ? { base64: toBase64(value) } : value)))}`;
export const ANSWER_END = "\n]}\n";

/** In place of a provider's address: what the phone did not tell, a sentence in a row. */
export const NOT_TOLD = "about:not-told";

const toBase64 = (bytes: Uint8Array): string => {
  let binary = "";
  for (const byte of bytes) binary += String.fromCharCode(byte);
  return btoa(binary);
};
const fromBase64 = (text: string): Uint8Array => Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));

const Value = z.union([
  z.string(),
  z.null(),
  z.number().transform(String),
  z.object({ base64: z.base64() }).transform(({ base64 }) => fromBase64(base64)),
]);
const List = z.array(Value);
const Named = z.record(z.string(), Value);
const Head = z.object({ uri: z.string(), columns: z.array(z.string()).max(64) });

/** Bytes that are read at once; of a line, and of what stands before the first row, at most. */
const PIECE = 1024 * 1024;
const MAX_LINE = 64 * 1024 * 1024;
const MAX_HEAD = 64 * 1024;

/** Lines of a file with where each begins. @throws RangeError for a line that has no end */
async function* linesOf(source: ByteSource): AsyncGenerator<{ text: string; at: number }> {
  const decoder = new TextDecoder();
  let left = new Uint8Array(0);
  let at = 0;
  for (let read = 0; read < source.size; ) {
    const piece = await source.read(read, Math.min(PIECE, source.size - read));
    read += piece.length;
    const bytes = new Uint8Array(left.length + piece.length);
    bytes.set(left);
    bytes.set(piece, left.length);
    let from = 0;
    for (let end = bytes.indexOf(0x0a); end >= 0; end = bytes.indexOf(0x0a, from)) {
      yield { text: decoder.decode(bytes.subarray(from, end)), at: at + from };
      from = end + 1;
    }
    left = bytes.slice(from);
    at += from;
    if (left.length > MAX_LINE) throw new RangeError("it has a line without an end");
  }
  if (left.length > 0) yield { text: decoder.decode(left), at };
}

const parsed = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
};

/** What is asked for, by the first bytes of the answer. Null: it is none. */
export async function headOf(source: ByteSource): Promise<AnswerHead | null> {
  const text = new TextDecoder().decode(await source.read(0, Math.min(MAX_HEAD, source.size)));
  const begin = /"rows"\s*:\s*\[/.exec(text);
  return begin ? (Head.safeParse(parsed(`${text.slice(0, begin.index + begin[0].length)}]}`)).data ?? null) : null;
}

/**
 * The rows of an answer, in pieces. `broken` hears of each that does not read, and of an answer that is cut off.
 * @throws UnreadableError where the medium does not give it
 */
export async function* rowsOfAnswer(
  source: ByteSource,
  { columns }: AnswerHead,
  broken: (what: string) => void,
): AsyncGenerator<AnswerRow[]> {
  let rows: AnswerRow[] = [];
  /** An object over several lines. */
  let open: { text: string; at: number } | null = null;
  let isOver = false;
  const take = (text: string, at: number) => {
    const value = parsed(text.replace(/,$/, ""));
    const list = List.safeParse(value).data;
    const named = list ? undefined : Named.safeParse(value).data;
    if (list?.length === columns.length) rows.push({ values: list, at });
    else if (named) rows.push({ values: columns.map((name) => named[name] ?? null), at });
    else broken("a row of it does not read");
  };
  try {
    for await (const { text, at } of linesOf(source)) {
      if (open) {
        open.text += text;
        if (/^ {2}\}/.test(text)) {
          take(open.text, open.at);
          open = null;
        } else if (open.text.length > MAX_LINE) throw new RangeError("it has a row without an end");
      } else if (/^ {2}\{\s*$/.test(text)) open = { text, at };
      else if (/^ {2}[[{]/.test(text)) take(text, at);
      else if (/^(\]\}| \])$|"rows"\s*:\s*\[\]/.test(text)) isOver = true;
      if (rows.length >= 1000) {
        yield rows;
        rows = [];
      }
    }
  } catch (cause) {
    if (!(cause instanceof RangeError)) throw cause;
    broken(cause.message);
  }
  if (rows.length > 0) yield rows;
  if (!isOver) broken("it is cut off: what followed is not there");
}
