import { cbc } from "@noble/ciphers/aes.js";
import { sha1 } from "@noble/hashes/legacy.js";
import { pbkdf2Async } from "@noble/hashes/pbkdf2.js";
import { equalBytes } from "../bytes/equal.ts";
import type { Encryption } from "./header.ts";

/** What decrypts the payload. */
export interface MasterKey {
  readonly key: Uint8Array;
  readonly iv: Uint8Array;
}

const KEY_BYTES = 32;

/** PBKDF2 with HMAC-SHA-1 (RFC 8018 §5.2). */
const stretched = (password: Uint8Array, salt: Uint8Array, rounds: number): Promise<Uint8Array> =>
  pbkdf2Async(sha1, password, salt, { c: rounds, dkLen: KEY_BYTES });

/**
 * The key's bytes as the system takes them for a password: each is made a 16-bit character, negative ones with their sign, and
 * those are written as UTF-8; version 1 took their lower halves.
 */
function asPassword(key: Uint8Array, version: number): Uint8Array {
  if (version === 1) return key;
  return new TextEncoder().encode(String.fromCharCode(...Array.from(key, (byte) => (byte < 0x80 ? byte : 0xff00 | byte))));
}

/** Opens the master key with the owner's passphrase. @returns null where it is not the right one */
export async function openMasterKey(encryption: Encryption, version: number, passphrase: string): Promise<MasterKey | null> {
  const password = version === 1 ? Uint8Array.from(passphrase, (one) => one.charCodeAt(0) & 0xff) : new TextEncoder().encode(passphrase);
  const user = await stretched(password, encryption.userSalt, encryption.rounds);
  let blob: Uint8Array;
  try {
    blob = cbc(user, encryption.userIv).decrypt(encryption.masterKeyBlob);
  } catch {
    // The padding does not come out right: another passphrase.
    return null;
  }
  const parts: Uint8Array[] = [];
  for (let at = 0; parts.length < 3; ) {
    const length = blob[at];
    if (length === undefined || at + 1 + length > blob.length) return null;
    parts.push(blob.subarray(at + 1, at + 1 + length));
    at += 1 + length;
  }
  const [iv, key, checksum] = parts;
  if (iv.length !== 16 || key.length !== KEY_BYTES) return null;
  return equalBytes(await stretched(asPassword(key, version), encryption.checksumSalt, encryption.rounds), checksum) ? { key, iv } : null;
}
