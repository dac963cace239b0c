import { u16be, u32be } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { Pixels } from "../file-type.ts";
import { type Box, boxes, boxWithin } from "./boxes.ts";
import { some } from "./follow.ts";

/** How large pictures and films in boxes are, and how long, by their boxes alone. */

const be16 = u16be(0);
const be32 = u32be(0);
/** Bytes of what ties properties to items that are read: a picture of thousands of tiles has as many. */
const MOST_TIES = 256 * 1024;

const within = (content: ByteSource, { at, head, size }: Box): AsyncGenerator<Box> =>
  boxes(content, at + head, at + (size ?? content.size));

/** The properties of the picture that is shown, by their numbers (ISO/IEC 14496-12 §8.11.4, primary item; §8.11.14, associations). */
async function ofPrimary(content: ByteSource): Promise<ReadonlySet<number>> {
  const primary = await boxWithin(content, ["meta", "pitm"]);
  const ties = await boxWithin(content, ["meta", "iprp", "ipma"]);
  if (!primary || !ties) return new Set();
  const said = await some(content, primary.at + primary.head, 8);
  const item = said[0] === 0 ? be16(said, 4) : be32(said, 4);
  const bytes = await some(content, ties.at + ties.head, Math.min(MOST_TIES, (ties.size ?? 0) - ties.head));
  const [isLong, isWide] = [bytes[0] > 0, (bytes[3] & 1) === 1];
  const properties = new Set<number>();
  for (let at = 8; at + 5 <= bytes.length; ) {
    const id = isLong ? be32(bytes, at) : be16(bytes, at);
    at += isLong ? 4 : 2;
    const count = bytes[at++];
    for (let index = 0; index < count && at + 2 <= bytes.length + 1; index++, at += isWide ? 2 : 1)
      // The highest bit says that a reader must understand it.
      if (id === item) properties.add(isWide ? be16(bytes, at) & 0x7fff : bytes[at] & 0x7f);
  }
  return properties;
}

/**
 * What a picture says of its sides (ISO/IEC 23008-12 §6.5.3, spatial extents). Its tiles and small copies say theirs: where it does not say
 * which are its own, the largest are.
 */
export async function picturePixels(content: ByteSource): Promise<Pixels | null> {
  const properties = await boxWithin(content, ["meta", "iprp", "ipco"]);
  if (!properties) return null;
  const own = await ofPrimary(content);
  const all: { readonly pixels: Pixels; readonly isOwn: boolean }[] = [];
  let number = 0;
  for await (const box of within(content, properties)) {
    number++;
    const sides = box.type === "ispe" ? await some(content, box.at + box.head + 4, 8) : null;
    if (sides?.length === 8) all.push({ pixels: { width: be32(sides, 0), height: be32(sides, 4) }, isOwn: own.has(number) });
  }
  const chosen = all.filter(({ isOwn }) => isOwn);
  return largestOf((chosen.length > 0 ? chosen : all).map(({ pixels }) => pixels));
}

/** What a film's tracks say (ISO/IEC 14496-12 §8.3.2): sides in 16.16 at the end of each track's header. */
export async function filmPixels(content: ByteSource): Promise<Pixels | null> {
  const index = await boxWithin(content, ["moov"]);
  if (!index) return null;
  const all: Pixels[] = [];
  for await (const track of within(content, index)) {
    if (track.type !== "trak") continue;
    for await (const box of within(content, track)) {
      const sides = box.type === "tkhd" && box.size !== null ? await some(content, box.at + box.size - 8, 8) : null;
      if (sides?.length === 8) all.push({ width: be32(sides, 0) >>> 16, height: be32(sides, 4) >>> 16 });
    }
  }
  return largestOf(all);
}

/** What a film says of its length (ISO/IEC 14496-12 §8.2.2): in units of its own; of one in fragments their sum (§8.8.2). */
export async function filmSeconds(content: ByteSource): Promise<number | null> {
  const header = await boxWithin(content, ["moov", "mvhd"]);
  if (!header) return null;
  const said = await some(content, header.at + header.head, 32);
  const isLong = said[0] === 1;
  if (said.length < 32) return null;
  const units = be32(said, isLong ? 20 : 12);
  const own = lengthAt(said, isLong ? 24 : 16, isLong);
  const fragments = own === 0 ? await boxWithin(content, ["moov", "mvex", "mehd"]) : null;
  const told = fragments ? await some(content, fragments.at + fragments.head, 12) : null;
  const length = told && told.length === 12 ? lengthAt(told, 4, told[0] === 1) : own;
  return units > 0 && length > 0 ? length / units : null;
}

/** A length of 32 or 64 bits; all ones: it is not known. */
const lengthAt = (bytes: Uint8Array, at: number, isLong: boolean): number => {
  const first = be32(bytes, at);
  if (!isLong) return first === 0xffff_ffff ? 0 : first;
  return first === 0xffff_ffff ? 0 : first * 2 ** 32 + be32(bytes, at + 4);
};

const largestOf = (all: readonly Pixels[]): Pixels | null => {
  const [largest] = [...all].sort((a, b) => b.width * b.height - a.width * a.height);
  return largest && largest.width > 0 && largest.height > 0 ? largest : null;
};
