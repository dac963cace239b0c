import type { Trouble } from "./trouble.ts";

/**
 * Read-only random access to something that is being recovered.
 *
 * There is no way to write through a ByteSource, by type: that is how "never make it worse" is kept.
 */
export interface ByteSource {
  /** What a person would call it: a file name, a partition. */
  readonly name: string;
  /** Bytes in all. */
  readonly size: number;
  /** Places that are known not to read before anybody asks: a copy's holes. Their reads fail for good. */
  readonly holes?: readonly { readonly offset: number; readonly length: number }[];
  /** What was met on the way to it: a backup that was cut off. */
  readonly troubles?: readonly Trouble[];
  /**
   * Reads exactly `length` bytes from absolute byte `offset`.
   * The answer may share memory with the source: never write into it.
   * @throws UnreadableError when the medium does not give these bytes
   * @throws RangeError when the range lies outside [0, size): a mistake of the caller
   */
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** The medium did not give these bytes (a dead sector, a cut cable). The range is exact and absolute. */
export class UnreadableError extends Error {
  constructor(
    readonly offset: number,
    readonly length: number,
    readonly because = "the medium does not answer here",
    /** Asking again is of no use: a file that went away does not come back. */
    readonly forGood = false,
  ) {
    super(`cannot read ${length} bytes at ${offset}: ${because}`);
    this.name = "UnreadableError";
  }
}

/** What was given cannot be worked on at all. The message is one plain sentence for the person at the bench. */
export class UnusableError extends Error {
  constructor(message: string) {
    super(message);
    this.name = "UnusableError";
  }
}

/** The same source, with what was met on the way to it. */
export const withTroubles = (source: ByteSource, troubles: readonly Trouble[]): ByteSource => ({
  name: source.name,
  size: source.size,
  ...(source.holes && { holes: source.holes }),
  troubles: [...(source.troubles ?? []), ...troubles],
  read: (offset, length) => source.read(offset, length),
});

/** The one gate for ranges: every source calls it before reading. */
export function checkRange(source: { readonly size: number; readonly name: string }, offset: number, length: number): void {
  if (!Number.isSafeInteger(offset) || !Number.isSafeInteger(length) || offset < 0 || length < 0 || offset + length > source.size)
    throw new RangeError(`bytes ${offset}+${length} lie outside ${source.name} (${source.size} bytes)`);
}

/** Bytes of a source, or null where they cannot be read now; what is lost for good is an error. */
export async function readOr(source: ByteSource, at: number, length: number): Promise<Uint8Array | null> {
  try {
    return await source.read(at, length);
  } catch (cause) {
    if (cause instanceof UnreadableError && !cause.forGood) return null;
    throw cause;
  }
}
