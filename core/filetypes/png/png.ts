import type { Extent } from "../../bytes/extents.ts";
import { crc32 } from "../../bytes/hash.ts";
import { u32be } from "../../bytes/layout.ts";
import { RangeSet } from "../../bytes/ranges.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { CheckedType, Measure } from "../file-type.ts";
import { ZeroWatch } from "../followed/borne-out.ts";
import { picture } from "../format.ts";
import { ChunkHeader, CRC_BYTES, ImageHeader, SIGNATURE } from "./layout.ts";
import { type Header, headerRefusal, PALETTE, PictureData } from "./pixels.ts";

/** Bytes of chunk data read at a time. */
const PIECE = 256 * 1024;
/** A chunk's type, which its check sum goes over too. */
const TYPE_BYTES = 4;
/** Chunks before we stop believing. */
const MAX_CHUNKS = 1_000_000;
/** §5.3: a chunk's length must not exceed 2^31 - 1. */
const MAX_CHUNK_LENGTH = 0x7fff_ffff;

/** Below this part of the picture, what unpacks is no use to anybody. */
const LEAST_SHOWN = 0.05;

const headerOf = (image: Uint8Array): Header => ({
  width: ImageHeader.width(image, 0),
  height: ImageHeader.height(image, 0),
  bitDepth: ImageHeader.bitDepth(image, 0),
  colourType: ImageHeader.colourType(image, 0),
  compression: ImageHeader.compression(image, 0),
  filter: ImageHeader.filter(image, 0),
  interlace: ImageHeader.interlace(image, 0),
});

const shared = crc32();
const storedCrc = u32be(0);

/**
 * CRC of a chunk's type and data, read piece by piece: chunk lengths are not believed before they are checked. Null: what lies there
 * cannot be its data, long before its end. `data`: takes the data of the picture.
 */
async function chunkCrc(content: ByteSource, at: number, length: number, data: PictureData | null): Promise<number | null> {
  if (length <= PIECE) {
    const bytes = await content.read(at, length);
    data?.take(bytes.subarray(TYPE_BYTES));
    const running = await shared; // used without a pause in between: several walks may be under way
    running.start();
    running.update(bytes);
    return running.digest();
  }
  const own = await crc32();
  own.start();
  const zeros = new ZeroWatch();
  for (let done = 0; done < length; done += PIECE) {
    const piece = await content.read(at + done, Math.min(PIECE, length - done));
    own.update(piece);
    data?.take(done === 0 ? piece.subarray(TYPE_BYTES) : piece);
    if (zeros.sees(piece) || data?.isBroken) return null;
  }
  return own.digest();
}

async function walkChunks(source: ByteSource): Promise<Measure> {
  const content = windowSource(source, PIECE);
  let width: number | null = null;
  let height: number | null = null;
  let hasExif = false;
  let pictureChunks = 0;
  let says: Header | null = null;
  let data: PictureData | null = null;
  let palette = false;
  const end = (length: number, complete: boolean, because: string): Measure => {
    const shown = complete ? 1 : (data?.part ?? 0);
    return {
      length,
      condition: complete ? "whole" : pictureChunks > 0 && shown >= LEAST_SHOWN ? "damaged" : "remnant",
      because,
      width,
      height,
      shown,
      hasExif,
    };
  };
  let at = SIGNATURE.length;
  for (let chunks = 0; chunks < MAX_CHUNKS; chunks++) {
    if (at + ChunkHeader.size + CRC_BYTES > content.size) return end(at, false, "the bytes end here");
    const header = await content.read(at, ChunkHeader.size);
    const length = ChunkHeader.length(header, 0);
    const type = ChunkHeader.type(header, 0);
    if (!/^[A-Za-z]{4}$/.test(type) || length > MAX_CHUNK_LENGTH) return end(at, false, "no chunk where one must be");
    if ((chunks === 0) !== (type === "IHDR")) return end(at, false, "its header chunk is not the first one");
    const dataAt = at + ChunkHeader.size;
    if (dataAt + length + CRC_BYTES > content.size) return end(at, false, `the bytes end within its chunk ${type}`);
    const picture = type === "IDAT" ? data : null;
    const computed = await chunkCrc(content, at + 4, length + TYPE_BYTES, picture);
    if (computed === null) return end(at, false, `the bytes of its chunk ${type} break off`);
    if (storedCrc(await content.read(dataAt + length, CRC_BYTES), 0) !== computed)
      return end(at, false, `the check sum of its chunk ${type} does not fit`);
    if (type === "IHDR") {
      if (length !== ImageHeader.size) return end(at, false, "its header chunk has a wrong length");
      const image = await content.read(dataAt, length);
      says = headerOf(image);
      ({ width, height } = says);
      const refusal = headerRefusal(says);
      if (refusal) return end(at, false, refusal);
      data = new PictureData(says);
    }
    if (type === "PLTE") palette = true;
    if (type === "IDAT") pictureChunks++;
    if (type === "eXIf") hasExif = true;
    at = dataAt + length + CRC_BYTES;
    if (type === "IEND") {
      if (pictureChunks === 0) return end(at, false, "an end chunk before any picture");
      if (says?.colourType === PALETTE && !palette) return end(at, false, "its colours stand in a palette that it does not have");
      const lack = data?.lack ?? null;
      if (lack) return end(at, false, lack);
      return end(at, true, "every chunk to the end one agrees with its check sum, and its picture unpacks whole");
    }
  }
  return end(at, false, "more chunks than a picture can have");
}

/**
 * Steps from chunk to chunk behind lost bytes: a chunk's header says where the next one stands, so that only a lost header ends it. Chunks
 * that hold nothing lost must agree with their check sums.
 */
async function endBehind(content: ByteSource, brokeAt: number, lost: readonly Extent[]): Promise<number | null> {
  const gone = new RangeSet();
  for (const { offset, length } of lost) gone.add(offset, length);
  let at = brokeAt;
  for (let chunks = 0; chunks < MAX_CHUNKS && at + ChunkHeader.size + CRC_BYTES <= content.size; chunks++) {
    if (gone.overlap(at, ChunkHeader.size) > 0) return null;
    const header = await content.read(at, ChunkHeader.size);
    const length = ChunkHeader.length(header, 0);
    const type = ChunkHeader.type(header, 0);
    const next = at + ChunkHeader.size + length + CRC_BYTES;
    if (!/^[A-Za-z]{4}$/.test(type) || length > MAX_CHUNK_LENGTH || next > content.size) return null;
    if (gone.overlap(at, next - at) === 0) {
      const computed = await chunkCrc(content, at + TYPE_BYTES, length + TYPE_BYTES, null);
      if (computed !== storedCrc(await content.read(next - CRC_BYTES, CRC_BYTES), 0)) return null;
    }
    if (type === "IEND") return next;
    at = next;
  }
  return null;
}

/** ISO/IEC 15948 (PNG): chunks walked from header to end, each checked against its CRC, the picture unpacked and counted. */
export const png: CheckedType = {
  reach: "checked",
  formats: [picture("png", "image/png")],
  beginsBytes: SIGNATURE.length,
  firstBytes: [SIGNATURE[0]],
  isKeptSmall: false,
  begins: (bytes, at) => SIGNATURE.every((byte, index) => bytes[at + index] === byte),
  measure: walkChunks,
  endBehind,
};
