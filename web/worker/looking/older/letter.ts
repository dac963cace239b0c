import { layout, u8, u16, u32 } from "../../../../core/bytes/layout.ts";
import { type Stream, streamNamed } from "./streams.ts";

/** What a letter begins with ([MS-DOC] §2.5.1, FIB): FibBase, and behind it what says where its text is told of. */
const Fib = layout(0x1aa, {
  wIdent: u16(0),
  nFib: u16(2),
  flags: u16(10),
  /** Of letters before 1997: where their text begins and ends. */
  fcMin: u32(0x18),
  fcMac: u32(0x1c),
  ccpText: u32(0x4c),
  ccpFtn: u32(0x50),
  fcClx: u32(0x1a2),
  lcbClx: u32(0x1a6),
});
const ENCRYPTED = 0x0100;
const TABLE_1 = 0x0200;
const WORD_97 = 0xc1;
/** §2.8.35 PlcPcd: characters of each piece, then pieces. */
const Pcd = layout(8, { flags: u16(0), fc: u32(2), prm: u16(6) });
const PRC = 1;
const PCDT = 2;
const COMPRESSED = 0x4000_0000;
const MOST_PIECES = 100_000;
/** Letters that are read. */
const MOST_LETTERS = 4_000_000;

/** §2.4.1: characters that stand for something else. A mark of a cell that follows another one ends a row. */
const FIELD_BEGINS = "\x13";
const FIELD_TURNS = "\x14";
const FIELD_ENDS = "\x15";
const SIGNS: Readonly<Record<string, string>> = {
  "\r": "\n",
  "\x0b": "\n",
  "\x0c": "\n",
  "\x0e": "\n",
  "\x07": "\t",
  "\x1e": "-",
  "\x1f": "",
};

/** The text of a letter of the older form: what it says, and its notes. @throws where it is encrypted or does not say where its text is */
export function textOfLetter(streams: readonly Stream[]): string {
  const main = streamNamed(streams, "WordDocument");
  if (main.length < Fib.size) throw new Error("it breaks off before it says where its text is");
  if (Fib.flags(main, 0) & ENCRYPTED) throw new Error("it is encrypted: it opens with its password, once it was handed over");
  if (Fib.nFib(main, 0) < WORD_97) return plain(oneByte(main.subarray(Fib.fcMin(main, 0), Fib.fcMac(main, 0))));
  const table = streamNamed(streams, Fib.flags(main, 0) & TABLE_1 ? "1Table" : "0Table");
  const letters = Math.min(Fib.ccpText(main, 0) + Fib.ccpFtn(main, 0), MOST_LETTERS);
  const clx = table.subarray(Fib.fcClx(main, 0), Fib.fcClx(main, 0) + Fib.lcbClx(main, 0));
  return plain(piecesOf(main, clx).slice(0, letters));
}

const u16At = u16(0);
const u32At = u32(0);
const byteAt = u8(0);

/** §2.9.38 Clx: properties are stepped over, and what is behind them says in which pieces the text lies (§2.9.178). */
function piecesOf(main: Uint8Array, clx: Uint8Array): string {
  let at = 0;
  while (at + 3 <= clx.length && byteAt(clx, at) === PRC) at += 3 + u16At(clx, at + 1);
  if (at + 5 > clx.length || byteAt(clx, at) !== PCDT) throw new Error("it does not say where its text is");
  const from = at + 5;
  const pieces = Math.min(Math.floor((Math.min(u32At(clx, at + 1), clx.length - from) - 4) / (4 + Pcd.size)), MOST_PIECES);
  const parts: string[] = [];
  let told = 0;
  for (let piece = 0; piece < pieces && told < MOST_LETTERS; piece++) {
    const letters = Math.min(u32At(clx, from + (piece + 1) * 4) - u32At(clx, from + piece * 4), MOST_LETTERS - told);
    if (letters <= 0) continue;
    const fc = Pcd.fc(clx, from + (pieces + 1) * 4 + piece * Pcd.size);
    const place = fc & ~(COMPRESSED | 0x8000_0000);
    parts.push(
      fc & COMPRESSED
        ? oneByte(main.subarray(place / 2, place / 2 + letters))
        : new TextDecoder("utf-16le").decode(main.subarray(place, place + letters * 2)),
    );
    told += letters;
  }
  return parts.join("");
}

/** §2.9.73: one byte a letter, as windows-1252 has them. */
const oneByte = (bytes: Uint8Array): string => new TextDecoder("windows-1252").decode(bytes);

/** Without what fields say to programs and without what stands for pictures. */
function plain(text: string): string {
  const parts: string[] = [];
  /** For each field that is open (§2.8.25): does what stands here speak to programs? */
  const fields: boolean[] = [];
  for (const letter of text.replaceAll("\x07\x07", "\n")) {
    if (letter === FIELD_BEGINS) fields.push(true);
    else if (letter === FIELD_TURNS) fields.splice(-1, 1, false);
    else if (letter === FIELD_ENDS) fields.pop();
    else if (!fields.includes(true)) parts.push(SIGNS[letter] ?? (letter < " " && letter !== "\t" && letter !== "\n" ? "" : letter));
  }
  return parts.join("").trim();
}
