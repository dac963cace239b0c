import { layout, u16, u32 } from "../bytes/layout.ts";
import { type Part, partsSource } from "../bytes/parts-source.ts";
import { type ByteSource, UnreadableError, UnusableError } from "../bytes/source.ts";

/** Android sparse images, as the Android Open Source Project declares them in system/core/libsparse/sparse_format.h. Little-endian. */
const Header = layout(28, {
  magic: u32(0),
  major_version: u16(4),
  minor_version: u16(6),
  file_hdr_sz: u16(8),
  chunk_hdr_sz: u16(10),
  blk_sz: u32(12),
  total_blks: u32(16),
  total_chunks: u32(20),
  image_checksum: u32(24),
});
const Chunk = layout(12, { chunk_type: u16(0), reserved1: u16(2), chunk_sz: u32(4), total_sz: u32(8) });
const MAGIC = 0xed26_ff3a;
const ChunkType = { raw: 0xcac1, fill: 0xcac2, dontCare: 0xcac3, crc32: 0xcac4 } as const;
const MAX_CHUNKS = 1 << 22;
const MAX_BLOCK = 1 << 24;

/** Opens a sparse image as the image that it stands for. Null: it is none. @throws UnusableError where its header makes no sense */
export async function openSparse(packed: ByteSource): Promise<ByteSource | null> {
  if (packed.size < Header.size) return null;
  const header = await packed.read(0, Header.size);
  if (Header.magic(header, 0) !== MAGIC) return null;
  const blockBytes = Header.blk_sz(header, 0);
  const headerBytes = Header.chunk_hdr_sz(header, 0);
  const chunks = Header.total_chunks(header, 0);
  const size = Header.total_blks(header, 0) * blockBytes;
  const makesSense =
    Header.major_version(header, 0) === 1 &&
    headerBytes >= Chunk.size &&
    headerBytes <= 4096 &&
    blockBytes >= 4 &&
    blockBytes <= MAX_BLOCK &&
    blockBytes % 4 === 0;
  if (!makesSense || chunks > MAX_CHUNKS || !Number.isSafeInteger(size) || size === 0)
    throw new UnusableError(`${packed.name} begins like an Android sparse image, but its header makes no sense.`);
  return partsSource(packed.name, await readChunks(packed, Header.file_hdr_sz(header, 0), headerBytes, blockBytes, chunks, size));
}

/** A stretch that lies packed; a bad place of it is told from the stretch's own start. */
const stored = (packed: ByteSource, from: number, length: number): Part => ({
  length,
  read: (offset, wanted) =>
    packed.read(from + offset, wanted).catch((cause: unknown) => {
      if (!(cause instanceof UnreadableError)) throw cause;
      throw new UnreadableError(cause.offset - from, cause.length, cause.because, cause.forGood);
    }),
});

/** A stretch of four bytes again and again. */
const repeated = (pattern: Uint8Array, length: number): Part => ({
  length,
  read: async (offset, wanted) => Uint8Array.from({ length: wanted }, (_, byte) => pattern[(offset + byte) % pattern.length]),
});

const missing = (length: number): Part => ({
  length,
  read: async (offset, wanted) => {
    throw new UnreadableError(offset, wanted, "this part of the sparse image is missing", true);
  },
});

/** Chunks up to the first that makes no sense; what is missing then is said when it is read. */
async function readChunks(
  packed: ByteSource,
  from: number,
  headerBytes: number,
  blockBytes: number,
  chunks: number,
  size: number,
): Promise<Part[]> {
  const parts: Part[] = [];
  let at = 0;
  let place = from;
  for (let index = 0; index < chunks && at < size && place + headerBytes <= packed.size; index++) {
    const chunk = await packed.read(place, headerBytes);
    const type = Chunk.chunk_type(chunk, 0);
    const length = Math.min(Chunk.chunk_sz(chunk, 0) * blockBytes, size - at);
    const total = Chunk.total_sz(chunk, 0);
    const body = total - headerBytes;
    if (body < 0) break;
    if (type === ChunkType.raw) {
      if (body < length) break;
      const there = Math.max(0, Math.min(length, packed.size - place - headerBytes));
      parts.push(stored(packed, place + headerBytes, there));
      at += there;
      if (there < length) break;
    } else if (type === ChunkType.fill) {
      if (body < 4 || place + headerBytes + 4 > packed.size) break;
      parts.push(repeated((await packed.read(place + headerBytes, 4)).slice(), length));
      at += length;
    } else if (type === ChunkType.dontCare) {
      parts.push(repeated(Uint8Array.of(0), length));
      at += length;
    } else if (type !== ChunkType.crc32) break;
    place += total;
  }
  parts.push(missing(size - at));
  return parts;
}
