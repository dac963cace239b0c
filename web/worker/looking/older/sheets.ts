import { layout, u8, u16, u32 } from "../../../../core/bytes/layout.ts";
import { type Stream, streamNamed } from "./streams.ts";

/** [MS-XLS] §2.4: a workbook is a row of records. */
const RecordHead = layout(4, { type: u16(0), length: u16(2) });
const Type = {
  formula: 0x06,
  filePass: 0x2f,
  continue: 0x3c,
  boundSheet: 0x85,
  mulRk: 0xbd,
  sst: 0xfc,
  labelSst: 0xfd,
  number: 0x203,
  label: 0x204,
  boolErr: 0x205,
  string: 0x207,
  rk: 0x27e,
  bof: 0x809,
} as const;
/** §2.5.13 Cell: what each of the records of a cell begins with. */
const Cell = layout(6, { row: u16(0), column: u16(2), format: u16(4) });
const VERSION_8 = 0x600;
/** §2.5.293, §2.5.294: flags of a text. */
const WIDE = 1;
const EXTENDED = 4;
const RICH = 8;
/** §2.4.21 BOF: the kind of what begins. */
const SHEET = 0x10;
const MOST_RECORDS = 2_000_000;
/** Rows of a sheet that are told, as of the newer form. */
const MOST_ROWS = 5000;
const MOST_COLUMNS = 256;

interface Piece {
  readonly type: number;
  readonly bytes: Uint8Array;
}

/** The texts and numbers of a workbook of the older form, a line for each row, an empty one between sheets. @throws where it is encrypted */
export function textOfSheets(streams: readonly Stream[]): string {
  const sheets: Map<number, string[]>[] = [];
  let shared: string[] = [];
  let isWide = true;
  let rows: Map<number, string[]> | null = null;
  /** The cell of a formula whose value is told by the record behind it. */
  let open: Uint8Array | null = null;
  const put = (cell: Uint8Array, value: string, column = Cell.column(cell, 0)) => {
    const row = Cell.row(cell, 0);
    if (!rows || row >= MOST_ROWS || column >= MOST_COLUMNS) return;
    const cells = rows.get(row) ?? [];
    cells[column] = value;
    rows.set(row, cells);
  };
  const pieces = records(streamNamed(streams, "Workbook", "Book"));
  for (const [index, { type, bytes }] of pieces.entries()) {
    if (type === Type.filePass) throw new Error("it is encrypted: it opens with its password, once it was handed over");
    if (type === Type.bof && bytes.length >= 4) {
      isWide = u16At(bytes, 0) >= VERSION_8;
      rows = u16At(bytes, 2) === SHEET ? new Map() : null;
      if (rows) sheets.push(rows);
    } else if (type === Type.sst) shared = new SharedTexts(continued(pieces, index)).read();
    else if (type === Type.string && open) put(open, labelOf(bytes, 0, isWide));
    else if (bytes.length > Cell.size) {
      const value = bytes.subarray(Cell.size);
      if (type === Type.labelSst && value.length >= 4) put(bytes, shared[u32At(value, 0)] ?? "");
      else if (type === Type.label) put(bytes, labelOf(value, 0, isWide));
      else if (type === Type.number && value.length >= 8) put(bytes, String(double(value, 0)));
      else if (type === Type.rk && value.length >= 4) put(bytes, String(rkOf(u32At(value, 0))));
      else if (type === Type.boolErr && value.length >= 2) put(bytes, value[1] ? "" : value[0] ? "TRUE" : "FALSE");
      else if (type === Type.mulRk)
        // §2.4.175: row, first column, then six bytes for each, then the last column.
        for (let at = 4, column = Cell.column(bytes, 0); at + 8 <= bytes.length; at += 6, column++)
          put(bytes, String(rkOf(u32At(bytes, at + 2))), column);
      else if (type === Type.formula && value.length >= 8) {
        // §2.5.133: what is no number says so in its last two bytes.
        const isNumber = u16At(value, 6) !== 0xffff;
        if (isNumber) put(bytes, String(double(value, 0)));
        open = isNumber ? null : bytes;
      }
    }
  }
  return sheets
    .filter((sheet) => sheet.size > 0)
    .map(linesOf)
    .join("\n\n");
}

const u16At = u16(0);
const u32At = u32(0);
const byteAt = u8(0);
const double = (bytes: Uint8Array, at: number): number => new DataView(bytes.buffer, bytes.byteOffset).getFloat64(at, true);

/** §2.5.218 RkNumber: the upper 30 bits of a number, or a whole one; a hundred times as large where the lowest bit says so. */
function rkOf(rk: number): number {
  const bytes = new DataView(new ArrayBuffer(8));
  bytes.setUint32(4, rk & 0xffff_fffc, true);
  const value = rk & 2 ? (rk | 0) >> 2 : bytes.getFloat64(0, true);
  return rk & 1 ? value / 100 : value;
}

function records(book: Uint8Array): Piece[] {
  const all: Piece[] = [];
  for (let at = 0; at + RecordHead.size <= book.length && all.length < MOST_RECORDS; ) {
    const size = RecordHead.length(book, at);
    all.push({ type: RecordHead.type(book, at), bytes: book.subarray(at + RecordHead.size, at + RecordHead.size + size) });
    at += RecordHead.size + size;
  }
  return all;
}

/** A record and those that go on with it. */
function continued(pieces: readonly Piece[], from: number): Uint8Array[] {
  let to = from + 1;
  while (pieces[to]?.type === Type.continue) to++;
  return pieces.slice(from, to).map(({ bytes }) => bytes);
}

/** §2.4.265 SST: texts that cells share. One that goes on in another record says there anew how wide its letters are. */
class SharedTexts {
  readonly #pieces: readonly Uint8Array[];
  #piece = 0;
  #at = 8;

  constructor(pieces: readonly Uint8Array[]) {
    this.#pieces = pieces;
  }

  read(): string[] {
    const texts: string[] = [];
    const told = this.#pieces[0].length >= 8 ? u32At(this.#pieces[0], 4) : 0;
    while (texts.length < told && this.#here()) texts.push(this.#text());
    return texts;
  }

  /** Is there anything left? Steps into the next record where one is at its end. */
  #here(): boolean {
    while (this.#piece < this.#pieces.length && this.#at >= this.#pieces[this.#piece].length) {
      this.#piece++;
      this.#at = 0;
    }
    return this.#piece < this.#pieces.length;
  }

  #byte(): number {
    return this.#here() ? byteAt(this.#pieces[this.#piece], this.#at++) : 0;
  }
  #word = (): number => this.#byte() | (this.#byte() << 8);
  #skip(bytes: number): void {
    for (let left = bytes; left > 0 && this.#here(); ) {
      const step = Math.min(left, this.#pieces[this.#piece].length - this.#at);
      this.#at += step;
      left -= step;
    }
  }

  #text(): string {
    let left = this.#word();
    let flags = this.#byte();
    const runs = flags & RICH ? this.#word() : 0;
    const extra = flags & EXTENDED ? this.#word() | (this.#word() << 16) : 0;
    const parts: string[] = [];
    while (left > 0) {
      const before = this.#piece;
      if (!this.#here()) break;
      if (this.#piece !== before) flags = this.#byte();
      const bytes = this.#pieces[this.#piece];
      const width = flags & WIDE ? 2 : 1;
      const letters = Math.min(left, Math.floor((bytes.length - this.#at) / width));
      if (letters === 0) {
        this.#at = bytes.length;
        continue;
      }
      parts.push(lettersOf(bytes.subarray(this.#at, this.#at + letters * width), width === 2));
      this.#at += letters * width;
      left -= letters;
    }
    this.#skip(runs * 4 + Math.max(0, extra));
    return parts.join("");
  }
}

/** §2.5.293: one byte a letter is the lower half of UTF-16. */
const lettersOf = (bytes: Uint8Array, isWide: boolean): string => new TextDecoder(isWide ? "utf-16le" : "latin1").decode(bytes);

/** §2.5.294 XLUnicodeString; before version 8 one byte a letter. */
function labelOf(bytes: Uint8Array, at: number, isVersion8: boolean): string {
  if (bytes.length < at + 3) return "";
  const letters = u16At(bytes, at);
  if (!isVersion8) return lettersOf(bytes.subarray(at + 2, at + 2 + letters), false);
  const isWide = (bytes[at + 2] & WIDE) !== 0;
  return lettersOf(bytes.subarray(at + 3, at + 3 + letters * (isWide ? 2 : 1)), isWide);
}

const linesOf = (rows: ReadonlyMap<number, readonly string[]>): string =>
  [...rows]
    .sort(([a], [b]) => a - b)
    .map(([, cells]) => Array.from(cells, (cell) => cell ?? "").join("\t"))
    .join("\n");
