import { constants, createHash, createPublicKey, type KeyObject, publicDecrypt } from "node:crypto";
import { PeerError } from "../../core/phones/adb/packets.ts";

/** A computer's key, as ADB sends and stores it: RSA with 2,048 bits in a struct of its own, base64, then a name. */
export interface ComputerKey {
  readonly key: KeyObject;
  /** MD5 of the struct, in pairs: what the phone shows beside its question. */
  readonly fingerprint: string;
  readonly owner: string;
}

const MODULUS_BYTES = 256;
/** Words of the modulus, n0inv, the modulus, R² and the exponent (libmincrypt's RSAPublicKey; AOSP, adb_auth_host). */
const STRUCT_BYTES = 4 + 4 + MODULUS_BYTES + MODULUS_BYTES + 4;

/** @throws PeerError for what is no such key */
export function parseComputerKey(payload: Uint8Array): ComputerKey {
  const [encoded, owner = "unknown"] = Buffer.from(payload).toString("latin1").replace(/\0.*$/s, "").split(" ");
  const struct = Buffer.from(encoded, "base64");
  if (struct.length !== STRUCT_BYTES || struct.readUInt32LE(0) !== MODULUS_BYTES / 4) throw new PeerError("this is no key of a computer");
  const modulus = Buffer.from(struct.subarray(8, 8 + MODULUS_BYTES)).reverse();
  const exponent = Buffer.alloc(4);
  exponent.writeUInt32BE(struct.readUInt32LE(STRUCT_BYTES - 4));
  let key: KeyObject;
  try {
    key = createPublicKey({
      key: { kty: "RSA", n: modulus.toString("base64url"), e: exponent.toString("base64url") },
      format: "jwk",
    });
  } catch {
    throw new PeerError("this is no key of a computer");
  }
  return { key, fingerprint: fingerprintOf(struct), owner };
}

const fingerprintOf = (bytes: Buffer): string => (createHash("md5").update(bytes).digest("hex").toUpperCase().match(/../g) ?? []).join(":");

/** A computer's key made here: what a phone remembers of a computer that it let in before. */
export function computerKeyOf(key: KeyObject, owner: string): ComputerKey {
  return { key, owner, fingerprint: fingerprintOf(Buffer.from(key.export({ format: "jwk" }).n ?? "", "base64url")) };
}

/** DigestInfo of SHA-1 before the digest itself (RFC 8017 §9.2, note 1): the token stands in the digest's place. */
const SHA1_PREFIX = Buffer.from("3021300906052b0e03021a05000414", "hex");

/** Did the owner of this key sign this token? */
export function isSignedBy({ key }: ComputerKey, token: Uint8Array, signature: Uint8Array): boolean {
  try {
    return publicDecrypt({ key, padding: constants.RSA_PKCS1_PADDING }, signature).equals(Buffer.concat([SHA1_PREFIX, token]));
  } catch {
    return false;
  }
}
