import { GNU_MAGIC, GnuHeader, headerSum, MAGIC, SparsePiece, TarHeader, Type } from "./layout.ts";

const utf8 = new TextDecoder();
const bytesOf = (latin: string): Uint8Array => Uint8Array.from(latin, (one) => one.charCodeAt(0));
const upToZero = (text: string): string => text.replace(/\0.*$/s, "");

/**
 * A number of a header: octal digits, or, where its first bit is set, the rest of its bytes as one binary number (GNU, "Extensions").
 * NaN: neither.
 */
export function numberOf(field: string): number {
  if ((field.charCodeAt(0) & 0x80) === 0) {
    const digits = upToZero(field).trim();
    return digits === "" ? 0 : /^[0-7]+$/.test(digits) ? Number.parseInt(digits, 8) : Number.NaN;
  }
  // All bits set: below zero, which no size and no time of a phone is.
  if (field.charCodeAt(0) === 0xff) return Number.NaN;
  let value = field.charCodeAt(0) & 0x7f;
  for (let at = 1; at < field.length; at++) value = value * 256 + field.charCodeAt(at);
  return value;
}

/** Is this block a header? Archives from before the standard bear no magic: then everything in it must read as one. */
export function isHeader(block: Uint8Array): boolean {
  const stored = numberOf(TarHeader.chksum(block, 0));
  if (stored !== headerSum(block) && stored !== headerSum(block, true)) return false;
  if (TarHeader.magic(block, 0).startsWith(MAGIC)) return true;
  const plain = [TarHeader.mode, TarHeader.uid, TarHeader.gid, TarHeader.bytes, TarHeader.mtime].every((field) =>
    /^[ 0-7]+[ \0]*$/.test(field(block, 0)),
  );
  return plain && block[0] > 0x20 && /[\0-7]/.test(TarHeader.typeflag(block, 0));
}

export const typeOf = (block: Uint8Array): string => TarHeader.typeflag(block, 0);

/** Name and folder as the header itself has them. */
export function nameIn(block: Uint8Array): string {
  // The GNU program has other things where the standard has the prefix; before the standard there was none.
  const magic = TarHeader.magic(block, 0);
  const prefix = magic.startsWith(MAGIC) && magic !== GNU_MAGIC ? upToZero(TarHeader.prefix(block, 0)) : "";
  return utf8.decode(bytesOf(`${prefix ? `${prefix}/` : ""}${upToZero(TarHeader.name(block, 0))}`));
}

export const linkIn = (block: Uint8Array): string => utf8.decode(bytesOf(upToZero(TarHeader.linkname(block, 0))));

/** Records of an extended header: "length key=value\n" (POSIX.1-2001, pax), in order. What is none ends the reading. */
export function records(bytes: Uint8Array): [string, string][] {
  const found: [string, string][] = [];
  for (let at = 0; at < bytes.length; ) {
    const space = bytes.indexOf(0x20, at);
    const length = space > at && space - at < 8 ? Number(utf8.decode(bytes.subarray(at, space))) : 0;
    if (!Number.isInteger(length) || length <= space - at + 2 || at + length > bytes.length) break;
    const text = utf8.decode(bytes.subarray(space + 1, at + length - 1));
    const equals = text.indexOf("=");
    if (equals > 0) found.push([text.slice(0, equals), text.slice(equals + 1)]);
    at += length;
  }
  return found;
}

/** A stretch of a sparse file that stands in the archive. */
export interface Piece {
  readonly offset: number;
  readonly length: number;
}

/** Stretches of the old GNU kind: of the header, or of a block that goes on with them. */
export function piecesIn(sp: Uint8Array): Piece[] {
  const pieces: Piece[] = [];
  for (let at = 0; at + SparsePiece.size <= sp.length && sp[at] !== 0; at += SparsePiece.size)
    pieces.push({ offset: numberOf(SparsePiece.offset(sp, at)), length: numberOf(SparsePiece.numbytes(sp, at)) });
  return pieces;
}

export const isSparse = (block: Uint8Array): boolean => typeOf(block) === Type.sparse && TarHeader.magic(block, 0) === GNU_MAGIC;
export const realSizeIn = (block: Uint8Array): number => numberOf(GnuHeader.realsize(block, 0));

/** Numbers that stand one after the other as offset, length, offset, length … */
const paired = (numbers: readonly number[]): Piece[] =>
  Array.from({ length: Math.floor(numbers.length / 2) }, (_, index) => ({ offset: numbers[2 * index], length: numbers[2 * index + 1] }));

/**
 * Stretches as pax records tell them ("GNU tar" manual, Storing Sparse Files): version 0.0 repeats two keys, 0.1 has one list. Null: these
 * records tell of none.
 */
export function piecesOfRecords(all: readonly (readonly [string, string])[]): Piece[] | null {
  const map = all.find(([key]) => key === "GNU.sparse.map");
  if (map) return paired(map[1].split(",").map(Number));
  const numbers = all.filter(([key]) => key === "GNU.sparse.offset" || key === "GNU.sparse.numbytes").map(([, value]) => Number(value));
  return numbers.length > 0 ? paired(numbers) : null;
}

/** Version 1.0: the stretches stand before the content, decimal numbers on lines of their own. Bytes of them, or null where they make no sense. */
export function piecesOfContent(text: string): { pieces: Piece[]; bytes: number } | null {
  const count = /^(\d{1,7})\n/.exec(text);
  if (!count) return null;
  const lines = text.split("\n", 2 * Number(count[1]) + 2);
  if (lines.length < 2 * Number(count[1]) + 1 || lines.slice(0, -1).some((line) => !/^\d{1,16}$/.test(line))) return null;
  const numbers = lines.slice(1, 1 + 2 * Number(count[1])).map(Number);
  const bytes = lines.slice(0, 1 + 2 * Number(count[1])).reduce((sum, line) => sum + line.length + 1, 0);
  return { pieces: paired(numbers), bytes };
}
