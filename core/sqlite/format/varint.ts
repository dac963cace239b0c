/**
 * Variable-length integers ("Database File Format" §1.6): seven bits a byte, high ones first, the ninth byte whole.
 * Reading gives no objects: it is done for every byte of free space.
 */

/** Bytes of the integer that begins at `at`, 0 where it runs over `end`. */
export function varintLength(bytes: Uint8Array, at: number, end: number): number {
  for (let length = 1; length <= 9; length++) {
    if (at + length > end) return 0;
    if (length === 9 || bytes[at + length - 1] < 0x80) return length;
  }
  return 0;
}

/** The value of an integer of `length` bytes, as a number: negative and huge ones (nine bytes) lose their last bits. */
export function varintNumber(bytes: Uint8Array, at: number, length: number): number {
  if (length === 1) return bytes[at];
  if (length === 2) return ((bytes[at] & 0x7f) << 7) | bytes[at + 1];
  if (length === 9) return Number(varintBig(bytes, at));
  let value = 0;
  for (let index = 0; index < length; index++) value = value * 128 + (bytes[at + index] & 0x7f);
  return value;
}

/** The exact value of an integer of nine bytes, signed. */
function varintBig(bytes: Uint8Array, at: number): bigint {
  let value = 0n;
  for (let index = 0; index < 8; index++) value = (value << 7n) | BigInt(bytes[at + index] & 0x7f);
  return BigInt.asIntN(64, (value << 8n) | BigInt(bytes[at + 8]));
}

/** A row id: exact; a number where it fits one. */
export function rowidAt(bytes: Uint8Array, at: number, length: number): number | bigint {
  if (length < 9) {
    const value = varintNumber(bytes, at, length);
    if (Number.isSafeInteger(value)) return value;
    let exact = 0n;
    for (let index = 0; index < length; index++) exact = (exact << 7n) | BigInt(bytes[at + index] & 0x7f);
    return exact;
  }
  return shortened(varintBig(bytes, at));
}

/** A number where that is exact. */
export const shortened = (value: bigint): number | bigint =>
  value >= BigInt(Number.MIN_SAFE_INTEGER) && value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value;

/** How many bytes a value takes as such an integer. */
export function varintSize(value: number): number {
  let length = 1;
  for (let left = value; left >= 128 && length < 9; left = Math.floor(left / 128)) length++;
  return length;
}
