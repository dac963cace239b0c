import { layout, u16, u32 } from "../bytes/layout.ts";
import { type ByteSource, checkRange, UnreadableError, UnusableError } from "../bytes/source.ts";

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

/** A stretch of the unpacked image: bytes of the packed one, four bytes again and again, zeros, or missing. */
type Part = { readonly at: number; readonly length: number } & (
  | { readonly kind: "raw"; readonly from: number }
  | { readonly kind: "fill"; readonly pattern: Uint8Array }
  | { readonly kind: "zeros" }
  | { readonly kind: "missing" }
);

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
  const parts = await readChunks(packed, Header.file_hdr_sz(header, 0), headerBytes, blockBytes, chunks, size);
  const place = { name: packed.name, size };
  return {
    ...place,
    async read(offset, length) {
      checkRange(place, offset, length);
      const bytes = new Uint8Array(length);
      for (let done = 0, index = partAt(parts, offset); done < length; index++) {
        const part = parts[index];
        const within = offset + done - part.at;
        const take = Math.min(part.length - within, length - done);
        if (part.kind === "missing") throw new UnreadableError(offset + done, take, "this part of the sparse image is missing", true);
        if (part.kind === "raw") bytes.set(await readPacked(packed, part.from + within, take, offset + done), done);
        else if (part.kind === "fill") for (let byte = 0; byte < take; byte++) bytes[done + byte] = part.pattern[(within + byte) % 4];
        done += take;
      }
      return bytes;
    },
  };
}

/** A bad place of the packed image, told at its place in the unpacked one. */
async function readPacked(packed: ByteSource, from: number, length: number, at: number): Promise<Uint8Array> {
  try {
    return await packed.read(from, length);
  } catch (cause) {
    if (!(cause instanceof UnreadableError)) throw cause;
    throw new UnreadableError(cause.offset - from + at, cause.length, cause.because, cause.forGood);
  }
}

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
      if (there > 0) parts.push({ at, length: there, kind: "raw", from: place + headerBytes });
      at += there;
      if (there < length) break;
    } else if (type === ChunkType.fill) {
      if (body < 4 || place + headerBytes + 4 > packed.size) break;
      if (length > 0) parts.push({ at, length, kind: "fill", pattern: (await packed.read(place + headerBytes, 4)).slice() });
      at += length;
    } else if (type === ChunkType.dontCare) {
      if (length > 0) parts.push({ at, length, kind: "zeros" });
      at += length;
    } else if (type !== ChunkType.crc32) break;
    place += total;
  }
  if (at < size) parts.push({ at, length: size - at, kind: "missing" });
  return parts;
}

function partAt(parts: readonly Part[], offset: number): number {
  let low = 0;
  let high = parts.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (parts[middle].at <= offset) low = middle;
    else high = middle - 1;
  }
  return low;
}
