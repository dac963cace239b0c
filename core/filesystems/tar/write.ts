import { BLOCK, headerSum, MAGIC, padded, TarHeader, Type } from "./layout.ts";

/** An entry to be written. Size in bytes, time in milliseconds since 1970. */
export interface TarEntry {
  /** Without a leading slash. */
  readonly path: string;
  readonly size: number;
  readonly modified: number;
}

const encoder = new TextEncoder();

function put(block: Uint8Array, field: { at: number; bytes: number }, text: string | Uint8Array): void {
  const bytes = typeof text === "string" ? encoder.encode(text) : text;
  block.set(bytes.subarray(0, field.bytes), field.at);
}
/** Octal digits to the field's width, and its closing zero. */
const octal = (value: number, bytes: number): string => value.toString(8).padStart(bytes - 1, "0");

function header(name: Uint8Array, size: number, seconds: number, type: string): Uint8Array {
  const block = new Uint8Array(BLOCK);
  put(block, TarHeader.name, name);
  put(block, TarHeader.mode, octal(0o644, 8));
  put(block, TarHeader.uid, octal(0, 8));
  put(block, TarHeader.gid, octal(0, 8));
  put(block, TarHeader.bytes, octal(size, 12));
  put(block, TarHeader.mtime, octal(seconds, 12));
  put(block, TarHeader.typeflag, type);
  put(block, TarHeader.magic, `${MAGIC}\0`);
  put(block, TarHeader.version, "00");
  put(block, TarHeader.chksum, `${octal(headerSum(block), 7)}\0 `);
  return block;
}

/** A record of an extended header: its own length in decimal, then "key=value" and a line end (POSIX.1-2001, pax). */
function record(key: string, value: string): Uint8Array {
  const rest = encoder.encode(` ${key}=${value}\n`);
  let length = rest.length + 1;
  while (String(length).length + rest.length !== length) length = String(length).length + rest.length;
  const bytes = new Uint8Array(length);
  bytes.set(encoder.encode(String(length)));
  bytes.set(rest, length - rest.length);
  return bytes;
}

const MAX_OCTAL = 8 ** 11 - 1;

/** The header blocks of an entry, with an extended header where the plain one has no room for its name, size or time. */
export function headerBlocks({ path, size, modified }: TarEntry): Uint8Array {
  const name = encoder.encode(path);
  const seconds = Math.max(0, Math.floor(modified / 1000));
  const plain = name.length <= TarHeader.name.bytes && name.every((byte) => byte < 0x80) && size <= MAX_OCTAL && seconds <= MAX_OCTAL;
  const block = header(
    plain ? name : name.subarray(0, TarHeader.name.bytes),
    Math.min(size, MAX_OCTAL),
    Math.min(seconds, MAX_OCTAL),
    Type.file,
  );
  if (plain) return block;
  const records = [record("path", path), record("size", String(size)), record("mtime", String(Math.max(0, modified / 1000)))];
  const length = records.reduce((sum, one) => sum + one.length, 0);
  const blocks = new Uint8Array(BLOCK + padded(length) + BLOCK);
  blocks.set(header(encoder.encode("PaxHeaders/entry"), length, seconds, Type.extended));
  let at = BLOCK;
  for (const one of records) {
    blocks.set(one, at);
    at += one.length;
  }
  blocks.set(block, blocks.length - BLOCK);
  return blocks;
}
