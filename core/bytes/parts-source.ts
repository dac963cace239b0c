import { type ByteSource, checkRange, UnreadableError } from "./source.ts";

/** A stretch of a source that is put together: how long it is, and how its bytes are read, counted from its own start. */
export interface Part {
  readonly length: number;
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** Parts one after the other as one source. What a part cannot read is told at its place in the whole. */
export function partsSource(name: string, parts: readonly Part[]): ByteSource {
  const filled = parts.filter(({ length }) => length > 0);
  const starts = new Float64Array(filled.length + 1);
  filled.forEach(({ length }, index) => {
    starts[index + 1] = starts[index] + length;
  });
  const place = { name, size: starts[filled.length] };
  const readPart = (index: number, offset: number, length: number): Promise<Uint8Array> =>
    filled[index].read(offset, length).catch((cause: unknown) => {
      if (!(cause instanceof UnreadableError)) throw cause;
      throw new UnreadableError(starts[index] + cause.offset, cause.length, cause.because, cause.forGood);
    });
  return {
    ...place,
    async read(offset, length) {
      checkRange(place, offset, length);
      if (length === 0) return new Uint8Array(0);
      let index = lastAtOrBefore(starts, filled.length, offset);
      if (offset + length <= starts[index + 1]) return readPart(index, offset - starts[index], length);
      const whole = new Uint8Array(length);
      for (let done = 0; done < length; index++) {
        const within = offset + done - starts[index];
        const take = Math.min(filled[index].length - within, length - done);
        whole.set(await readPart(index, within, take), done);
        done += take;
      }
      return whole;
    },
  };
}

/** Index of the last of the first `count` places, in order, that is not behind `offset`. */
export function lastAtOrBefore(places: Float64Array, count: number, offset: number): number {
  let low = 0;
  let high = count - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (places[middle] <= offset) low = middle;
    else high = middle - 1;
  }
  return low;
}
