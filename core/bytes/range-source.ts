import { type ByteSource, checkRange, UnreadableError } from "./source.ts";

/** What a request for a byte range answers. */
export interface RangeAnswer {
  readonly status: number;
  readonly bytes: Uint8Array;
}

/** Fetches bytes `first`..`last`, both inclusive, as an HTTP Range request counts them (RFC 9110 §14.1.2). */
export type FetchRange = (first: number, last: number) => Promise<RangeAnswer>;

const PARTIAL_CONTENT = 206;

/** Something served by byte range over HTTP. The caller brings the fetching, so the core needs no network. */
export const rangeSource = (fetchRange: FetchRange, size: number, name: string): ByteSource => ({
  name,
  size,
  async read(offset, length) {
    checkRange(this, offset, length);
    if (length === 0) return new Uint8Array(0);
    const answer = await fetchRange(offset, offset + length - 1).catch((cause: Error) => {
      throw new UnreadableError(offset, length, cause.message);
    });
    if (answer.status !== PARTIAL_CONTENT || answer.bytes.length !== length)
      throw new UnreadableError(offset, length, `the server answered ${answer.status} with ${answer.bytes.length} bytes`);
    return answer.bytes;
  },
});
