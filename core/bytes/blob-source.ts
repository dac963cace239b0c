import { type BlobLike, BlobRun, LEAST_STREAMED } from "./blob-run.ts";
import { type ByteSource, checkRange, UnreadableError } from "./source.ts";

/** A source whose bytes are those of a blob, from the first to the last. */
export interface BlobSource<B extends BlobLike> extends ByteSource {
  readonly blob: B;
}

/**
 * A File or Blob, read in slices; who reads on in large pieces is given them from one stream. A file that vanished or changed meanwhile is an
 * UnreadableError.
 */
export const blobSource = <B extends BlobLike>(blob: B, name: string): BlobSource<B> => {
  const run = new BlobRun(blob);
  return {
    name,
    size: blob.size,
    blob,
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
