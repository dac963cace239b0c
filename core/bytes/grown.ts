/** The flat arrays that columns are kept in. */
type Flat = Uint8Array | Uint16Array | Uint32Array | Int32Array | Float64Array;

/** A larger array that begins as the old one did. @returns the fresh one */
export const grown = <T extends Flat>(old: T, fresh: T): T => {
  fresh.set(old as never);
  return fresh;
};
