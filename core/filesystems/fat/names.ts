import { LAST_LONG_ENTRY, LongEntry, LowerCase, Mark } from "./layout.ts";

/** Upper half of code page 437, the document's default OEM character set (from memory; checked against mtools). */
const CODE_PAGE_437 =
  "ÇüéâäàåçêëèïîìÄÅÉæÆôöòûùÿÖÜ¢£¥₧ƒáíóúñÑªº¿⌐¬½¼¡«»░▒▓│┤╡╢╖╕╣║╗╝╜╛┐└┴┬├─┼╞╟╚╔╩╦╠═╬╧╨╤╥╙╘╒╓╫╪┘┌█▄▌▐▀αßΓπΣσµτΦΘΩδ∞φε∩≡±≥≤⌠⌡÷≈°∙·√ⁿ²■\u00a0";

/** Shown in place of a first letter that the deletion overwrote. It can stand in no real name. */
const LOST_LETTER = "?";

const SHORT_NAME_BYTES = 11;
const UNITS_PER_ENTRY = 13;
/** A long name has at most 255 units: 20 entries. */
const MAX_LONG_ENTRIES = 20;

/** Sum over the 11 bytes of a short name that binds long entries to it (ChkSum() of the document). */
export function shortNameChecksum(name: Uint8Array): number {
  let sum = 0;
  for (let index = 0; index < SHORT_NAME_BYTES; index++) sum = (((sum & 1) << 7) + (sum >> 1) + name[index]) & 0xff;
  return sum;
}

/** True for bytes that the document allows in a short name. */
const isShortNameByte = (byte: number): boolean =>
  byte > 0x20 && byte !== 0x7f && !'"*+,./:;<=>?[\\]|'.includes(String.fromCharCode(byte)) && !(byte >= 0x61 && byte <= 0x7a);

/** All bytes legal? The first one is left out where the deletion mark stands in its place. */
export function isShortName(name: Uint8Array, erased: boolean): boolean {
  for (let index = erased ? 1 : 0; index < SHORT_NAME_BYTES; index++) {
    const byte = name[index];
    if (byte === 0x20 ? index === 0 : !isShortNameByte(byte) && !(index === 0 && byte === Mark.kanjiE5)) return false;
  }
  return true;
}

const decodeOem = (bytes: Uint8Array): string =>
  Array.from(bytes, (byte) => (byte < 0x80 ? String.fromCharCode(byte) : CODE_PAGE_437[byte - 0x80])).join("");

/**
 * A short name as people write it: base, dot, extension, in the case its bits say.
 * `first` replaces the byte that a deletion overwrote; without it that letter is shown as lost.
 */
export function shortName(name: Uint8Array, caseBits: number, erased: boolean, first?: number | null): string {
  const bytes = name.slice();
  if (typeof first === "number") bytes[0] = first;
  if (bytes[0] === Mark.kanjiE5) bytes[0] = Mark.erased;
  let base = decodeOem(bytes.subarray(0, 8)).trimEnd();
  let extension = decodeOem(bytes.subarray(8, 11)).trimEnd();
  if (erased && typeof first !== "number") base = LOST_LETTER + base.slice(1);
  if (caseBits & LowerCase.base) base = base.toLowerCase();
  if (caseBits & LowerCase.extension) extension = extension.toLowerCase();
  return extension ? `${base}.${extension}` : base;
}

/** The byte that stood first in an erased short name, worked out from its long entries' sum. Null: none is legal. */
function lostFirstByte(name: Uint8Array, checksum: number): number | null {
  const trial = name.slice();
  for (let byte = 0x21; byte < 0x100; byte++) {
    if (!isShortNameByte(byte) && byte !== Mark.kanjiE5) continue;
    trial[0] = byte;
    if (shortNameChecksum(trial) === checksum) return byte;
  }
  return null;
}

const unitsOf = (bytes: Uint8Array, base: number): number[] =>
  [LongEntry.name1, LongEntry.name2, LongEntry.name3].flatMap((part) => {
    const field = part(bytes, base);
    return Array.from({ length: field.length / 2 }, (_, index) => field[index * 2] | (field[index * 2 + 1] << 8));
  });

export interface LongName {
  readonly name: string;
  /** Erased: the byte that stood first in the short name, worked out from the sum. */
  readonly firstByte: number | null;
  /** False where later parts of the name were overwritten: then it breaks off. */
  readonly complete: boolean;
}

/** Does a long name that fills its last entry end as its short name does? Else its last parts are lost. */
function endsLike(name: string, shortBytes: Uint8Array): boolean {
  const extension = decodeOem(shortBytes.subarray(8, 11)).trimEnd();
  const dot = name.lastIndexOf(".");
  return extension === ""
    ? dot <= 0
    : dot > 0 &&
        name
          .slice(dot + 1)
          .toUpperCase()
          .startsWith(extension);
}

/**
 * The long name whose entries stand right before the short entry at `shortAt`, read backwards from it.
 * Present entries must carry the orders 1, 2, … and the sum of the short name. Of erased ones the order is overwritten:
 * they must carry one same sum, and a legal first letter must agree with it.
 * @returns null where there is none
 */
export function longName(bytes: Uint8Array, shortAt: number, shortBytes: Uint8Array, erased: boolean): LongName | null {
  const units: number[] = [];
  let checksum: number | null = null;
  let entries = 0;
  let ended = false;
  for (let at = shortAt - LongEntry.size; at >= 0 && entries < MAX_LONG_ENTRIES; at -= LongEntry.size) {
    const order = LongEntry.order(bytes, at);
    if (LongEntry.attributes(bytes, at) !== 0x0f || LongEntry.type(bytes, at) !== 0 || LongEntry.firstClusterLow(bytes, at) !== 0) break;
    if (erased ? order !== Mark.erased : (order & ~LAST_LONG_ENTRY) !== entries + 1) break;
    const sum = LongEntry.checksum(bytes, at);
    if (checksum !== null && sum !== checksum) break;
    checksum = sum;
    entries++;
    const part = unitsOf(bytes, at);
    const end = part.indexOf(0);
    units.push(...(end < 0 ? part : part.slice(0, end)));
    ended = end >= 0 || (!erased && (order & LAST_LONG_ENTRY) !== 0);
    if (ended) break;
  }
  if (checksum === null || units.length === 0 || units.length > MAX_LONG_ENTRIES * UNITS_PER_ENTRY) return null;
  const firstByte = erased ? lostFirstByte(shortBytes, checksum) : null;
  if (erased ? firstByte === null : shortNameChecksum(shortBytes) !== checksum) return null;
  // Unpaired surrogates stay as they are in a JavaScript string; control characters cannot be in a name.
  const name = String.fromCharCode(...units);
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
  if (/[\u0000-\u001f\uffff]/.test(name)) return null;
  return { name, firstByte, complete: ended || endsLike(name, shortBytes) };
}
