import { createCRC32, createSHA256 } from "hash-wasm";

/** A running SHA-256 (FIPS 180-4). `digest` gives 64 lower-case hexadecimal digits; `start` begins anew. */
export interface Sha256 {
  start(): void;
  update(bytes: Uint8Array): void;
  digest(): string;
}

/** SHA-256 that runs anywhere. Node brings a faster one of its own. */
export async function portableSha256(): Promise<Sha256> {
  const hasher = await createSHA256();
  return {
    start: () => void hasher.init(),
    update: (bytes) => void hasher.update(bytes),
    digest: () => hasher.digest("hex"),
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
