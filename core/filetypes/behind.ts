import { sliceSource } from "../bytes/extents.ts";
import type { ByteSource } from "../bytes/source.ts";
import type { Condition } from "./file-type.ts";
import { boxes } from "./followed/boxes.ts";
import { some } from "./followed/follow.ts";
import { type Format, format } from "./format.ts";
import { followed, HEAD_BYTES, typeOfHead } from "./table.ts";

/** Something that stands in one file behind the end of its picture: a clip, a second picture, a box of its maker's. */
export interface Behind {
  /** Bytes from the beginning of the file. */
  readonly offset: number;
  readonly length: number;
  readonly format: Format;
  readonly condition: Condition;
  readonly because: string;
  /** Was its structure walked? */
  readonly checked: boolean;
  readonly width: number | null;
  readonly height: number | null;
}

/** Parts of one file before we stop believing. */
const MOST = 8;
/** Zeros that may stand between two parts. */
const MOST_PADDING = 64 * 1024;
/** Files begin on sector boundaries at the finest: where no record says how long a file is, what begins there may be another one. */
const SECTOR = 512;
/** A box of nobody's: what makers put there. */
const BOX = format("box", "other");

/** ISO/IEC 14496-12 §4.2: boxes up to the last byte of what there is, of whatever types. Their bytes, or 0. */
async function boxesToEnd(content: ByteSource, from: number): Promise<number> {
  let at = from;
  for await (const { type, size } of boxes(content, from, content.size)) {
    if (size === null || !/^[\x20-\x7e]{4}$/.test(type)) return 0;
    at += size;
  }
  return at === content.size ? at - from : 0;
}

async function partAt(content: ByteSource, at: number, recorded: boolean): Promise<Behind | null> {
  const type = typeOfHead(await some(content, at, HEAD_BYTES));
  const rest = sliceSource(content, at, content.size - at);
  if (type?.reach === "checked") {
    const { length, condition, because, width, height } = await type.measure(rest);
    if (width === null || length === 0) return null;
    return { offset: at, length, format: type.formats[0], condition, because, checked: true, width, height };
  }
  const part = { offset: at, checked: false, width: null, height: null };
  // What is met by chance tells nothing here: any byte may stand behind a picture.
  const told = type && !type.byChance ? await followed(type, rest) : null;
  if (told) {
    const because = told.ends ? "it goes on to its own end; nothing in it was checked" : "it breaks off; nothing in it was checked";
    return { ...part, length: told.length, format: told.format, condition: told.ends ? "whole" : "damaged", because };
  }
  const bytes = recorded ? await boxesToEnd(content, at) : 0;
  if (bytes === 0) return null;
  return {
    ...part,
    length: bytes,
    format: BOX,
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
