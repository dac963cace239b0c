import { createCRC32, createSHA256 } from "hash-wasm";

/** A running SHA-256 (FIPS 180-4). `digest` gives 64 lower-case hexadecimal digits; `start` begins anew. */
export interface Sha256 {
  start(): void;
  update(bytes: Uint8Array): void;
  digest(): string;
}

/** A hash that can be put aside in the middle and gone on with in another process. */
export interface ResumableSha256 extends Sha256 {
  save(): Uint8Array;
  load(state: Uint8Array): void;
}

/** SHA-256 that runs anywhere. Node brings a faster one of its own. */
export async function portableSha256(): Promise<ResumableSha256> {
  const hasher = await createSHA256();
  return {
    start: () => void hasher.init(),
    update: (bytes) => void hasher.update(bytes),
    digest: () => hasher.digest("hex"),
    save: () => hasher.save(),
    load: (state) => void hasher.load(state),
  };
}

/** A running CRC-32 with the polynomial of ISO/IEC 15948 annex D. `digest` gives an unsigned 32-bit number. */
export interface Crc32 {
  start(): void;
  update(bytes: Uint8Array): void;
  digest(): number;
}

export async function crc32(): Promise<Crc32> {
  const hasher = await createCRC32();
  return {
    start: () => void hasher.init(),
    update: (bytes) => void hasher.update(bytes),
    digest: () => Number.parseInt(hasher.digest("hex"), 16),
  };
}
