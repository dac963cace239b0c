import { createCRC32, createSHA256 } from "hash-wasm";
import { piecesFrom } from "./pieces.ts";
import type { ByteSource } from "./source.ts";

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

/** SHA-256 of a content, read piece by piece. */
export async function hashOf(content: ByteSource, sha256: Sha256): Promise<string> {
  sha256.start();
  for await (const piece of piecesFrom(content)) sha256.update(piece);
  return sha256.digest();
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

const TABLES = new Map<number, Uint32Array>();

/** Table of a reflected CRC: 256 remainders of one byte each. */
function tableOf(polynomial: number): Uint32Array {
  const known = TABLES.get(polynomial);
  if (known) return known;
  const table = Uint32Array.from({ length: 256 }, (_, byte) => {
    let rest = byte;
    for (let bit = 0; bit < 8; bit++) rest = rest & 1 ? (rest >>> 1) ^ polynomial : rest >>> 1;
    return rest;
  });
  TABLES.set(polynomial, table);
  return table;
}

/** CRC-32 (ISO/IEC 15948 annex D, as gzip, PNG, xz and 7z have it) of a small piece, at once. */
export const crc32Of = (bytes: Uint8Array): number => (runningCrc(Polynomial.crc32, 0xffff_ffff, bytes) ^ 0xffff_ffff) >>> 0;

/** Reflected polynomials: CRC-32 (ISO/IEC 15948), CRC-32C (RFC 3720 §12.1), CRC-16 as in ext4's group descriptors. */
export const Polynomial = { crc32: 0xedb8_8320, crc32c: 0x82f6_3b78, crc16: 0xa001 } as const;

/**
 * A reflected CRC without the final inversion, gone on with from `seed`: file systems chain theirs and choose the seed.
 * Small pieces only: whole files are hashed by wasm.
 */
export function runningCrc(polynomial: number, seed: number, bytes: Uint8Array): number {
  const table = tableOf(polynomial);
  let rest = seed;
  for (let index = 0; index < bytes.length; index++) rest = (rest >>> 8) ^ table[(rest ^ bytes[index]) & 0xff];
  return rest >>> 0;
}
