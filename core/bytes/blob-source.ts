import { BlobRun, LEAST_STREAMED } from "./blob-run.ts";
import { type ByteSource, checkRange, UnreadableError } from "./source.ts";

/** The part of the File API's Blob that is used (W3C File API §3), so that the core needs no DOM. */
export interface BlobLike {
  readonly size: number;
  slice(start: number, end: number): { arrayBuffer(): Promise<ArrayBuffer>; stream(): ReadableStream<Uint8Array<ArrayBuffer>> };
}

/**
 * A File or Blob, read in slices; who reads on in large pieces is given them from one stream. A file that vanished or changed meanwhile is an
 * UnreadableError.
 */
export const blobSource = (blob: BlobLike, name: string): ByteSource => {
  const run = new BlobRun(blob);
  return {
    name,
    size: blob.size,
    async read(offset, length) {
      checkRange(this, offset, length);
      const streamed = length >= LEAST_STREAMED ? await run.read(offset, length) : null;
      if (streamed) return streamed;
      try {
        const bytes = new Uint8Array(await blob.slice(offset, offset + length).arrayBuffer());
        if (bytes.length === length) return bytes;
      } catch (cause) {
        throw new UnreadableError(offset, length, cause instanceof Error ? cause.message : undefined);
      }
      throw new UnreadableError(offset, length, "the file ended early");
    },
  };
};
