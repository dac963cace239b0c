/**
 * On-disk structures as tables of named fields. A field is a reader: called with bytes and the place where the
 * structure begins, it gives the value. Readers cost next to nothing, and a layout that is wrong does not load.
 */
export interface Field<T> {
  (bytes: Uint8Array, base: number): T;
  /** Bytes from the start of the structure. */
  readonly at: number;
  readonly bytes: number;
}

const field = <T>(at: number, bytes: number, read: (from: Uint8Array, place: number) => T): Field<T> =>
  Object.assign((from: Uint8Array, base: number) => read(from, base + at), { at, bytes });

const low32 = (b: Uint8Array, p: number): number => (b[p] | (b[p + 1] << 8) | (b[p + 2] << 16) | (b[p + 3] << 24)) >>> 0;

/** Little-endian unsigned integers. */
export const u8 = (at: number) => field(at, 1, (b, p) => b[p]);
export const u16 = (at: number) => field(at, 2, (b, p) => b[p] | (b[p + 1] << 8));
export const u32 = (at: number) => field(at, 4, low32);
/** 64 bits as a number: exact up to 2^53, and anything above is larger than any medium. */
export const u64 = (at: number) => field(at, 8, (b, p) => low32(b, p) + low32(b, p + 4) * 2 ** 32);
/** Big-endian unsigned integers. */
export const u16be = (at: number) => field(at, 2, (b, p) => (b[p] << 8) | b[p + 1]);
export const u32be = (at: number) => field(at, 4, (b, p) => ((b[p] << 24) | (b[p + 1] << 16) | (b[p + 2] << 8) | b[p + 3]) >>> 0);
/** Raw bytes, shared with the source. */
export const raw = (at: number, bytes: number) => field(at, bytes, (b, p) => b.subarray(p, p + bytes));
/** One character a byte. */
export const latin = (at: number, bytes: number) => field(at, bytes, (b, p) => String.fromCharCode(...b.subarray(p, p + bytes)));

/** Declares a structure of `size` bytes. Throws when loaded if fields overlap or run over the end. */
export function layout<F extends Record<string, Field<unknown>>>(size: number, fields: F): F & { readonly size: number } {
  let end = 0;
  for (const [name, { at, bytes }] of Object.entries(fields).sort(([, a], [, b]) => a.at - b.at)) {
    if (at < end) throw new Error(`layout: ${name} overlaps the field before it`);
    end = at + bytes;
    if (end > size) throw new Error(`layout: ${name} runs over the end`);
  }
  return Object.assign({ size }, fields);
}
