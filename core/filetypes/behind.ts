import { sliceSource } from "../bytes/extents.ts";
import { u32be } from "../bytes/layout.ts";
import type { ByteSource } from "../bytes/source.ts";
import { type DeclaredType, some } from "./declared/declared.ts";
import { riff, sqlite } from "./declared/headers.ts";
import { matroska } from "./declared/matroska.ts";
import { declaredOf } from "./declared/table.ts";
import { gif, isoMedia, pdf, zip } from "./declared/walked.ts";
import type { Condition, Kind } from "./file-type.ts";
import { HEAD_BYTES, typeAt } from "./table.ts";

/** Something that stands in one file behind the end of its picture: a clip, a second picture, a box of its maker's. */
export interface Behind {
  /** Bytes from the beginning of the file. */
  readonly offset: number;
  readonly length: number;
  readonly format: string;
  readonly kind: Kind;
  readonly condition: Condition;
  readonly because: string;
  /** Was its structure walked? */
  readonly checked: boolean;
  readonly width: number | null;
  readonly height: number | null;
}

/** Beginnings that are not met by chance. */
const STRONG: readonly DeclaredType[] = [isoMedia, riff, zip, gif, pdf, sqlite, matroska];
const BEGINNING = Math.max(HEAD_BYTES, ...STRONG.map(({ beginsBytes }) => beginsBytes));
/** Parts of one file before we stop believing. */
const MOST = 8;
/** Zeros that may stand between two parts. */
const MOST_PADDING = 64 * 1024;
/** Files begin on sector boundaries at the finest: where no record says how long a file is, what begins there may be another one. */
const SECTOR = 512;
const MAX_BOXES = 10_000;

const be32 = u32be(0);

/** ISO/IEC 14496-12 §4.2: boxes up to the last byte of what there is, of whatever types. Their bytes, or 0. */
async function boxesToEnd(content: ByteSource, from: number): Promise<number> {
  let at = from;
  for (let boxes = 0; boxes < MAX_BOXES && at < content.size; boxes++) {
    const head = await some(content, at, 16);
    if (head.length < 8 || !head.subarray(4, 8).every((byte) => byte >= 0x20 && byte < 0x7f)) return 0;
    let size = be32(head, 0);
    if (size === 1 && head.length === 16) size = be32(head, 8) * 2 ** 32 + be32(head, 12);
    if (size < 8) return 0;
    at += size;
  }
  return at === content.size ? at - from : 0;
}

async function partAt(content: ByteSource, at: number, recorded: boolean): Promise<Behind | null> {
  const head = await some(content, at, BEGINNING);
  const rest = sliceSource(content, at, content.size - at);
  const walked = typeAt(head, 0);
  if (walked) {
    const { length, condition, because, width, height } = await walked.measure(rest);
    if (width === null || length === 0) return null;
    return { offset: at, length, format: walked.format, kind: walked.kind, condition, because, checked: true, width, height };
  }
  const type = STRONG.find((one) => head.length >= one.beginsBytes && one.begins(head, 0));
  const declared = type ? await declaredOf(type, rest) : null;
  const part = { offset: at, checked: false, width: null, height: null };
  if (declared) {
    const because = declared.ends ? "it goes on to its own end; nothing in it was checked" : "it breaks off; nothing in it was checked";
    return {
      ...part,
      length: declared.length,
      format: declared.format,
      kind: declared.kind,
      condition: declared.ends ? "whole" : "damaged",
      because,
    };
  }
  const boxes = recorded ? await boxesToEnd(content, at) : 0;
  if (boxes === 0) return null;
  return {
    ...part,
    length: boxes,
    format: "box",
    kind: "other",
    condition: "whole",
    because: "boxes to the last byte of the file; nothing in them was checked",
  };
}

/**
 * The parts of a file behind byte `end`, where its picture ends, one after the other. `recorded`: a record says how long the file is, and
 * `content` is as long; else it is whatever lies there, and a part that begins where a file could begin is not taken.
 */
export async function behindOf(content: ByteSource, end: number, recorded: boolean): Promise<Behind[]> {
  const parts: Behind[] = [];
  for (let at = end; at < content.size && parts.length < MOST; ) {
    const padding = await some(content, at, recorded ? MOST_PADDING : SECTOR);
    const zeros = padding.findIndex((byte) => byte !== 0);
    if (zeros < 0) break;
    // A box begins with its size, whose first bytes may be zeros: they are no padding.
    const places = [...new Set([at, at + Math.max(0, zeros - 3), at + Math.max(0, zeros - 2), at + Math.max(0, zeros - 1), at + zeros])];
    let part: Behind | null = null;
    for (const place of places) {
      if (!recorded && place % SECTOR === 0) continue;
      part ??= await partAt(content, place, recorded);
    }
    if (!part) break;
    parts.push(part);
    at = part.offset + part.length;
  }
  return parts;
}
