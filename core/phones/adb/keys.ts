import { type AdbCredentialStore, type AdbPrivateKey, adbGeneratePublicKey } from "@yume-chan/adb";
import { md5 } from "hash-wasm";
import { UnusableError } from "../../bytes/source.ts";

/** A computer's debugging key as it is kept: RSA with 2,048 bits, PKCS #8 (RFC 5208), and whose it is. */
export interface ComputerKey {
  readonly name: string;
  readonly pkcs8: Uint8Array;
  /** Where it came from: made here, or brought by the owner of a phone. */
  readonly origin: "own" | "brought";
}

/** W3C Web Cryptography API, the algorithm that adb signs with. */
const RSA = { name: "RSASSA-PKCS1-v1_5", hash: "SHA-1" } as const;
const BITS = 2048;

/** Makes this computer's own key. */
export async function makeKey(name: string): Promise<ComputerKey> {
  const pair = await crypto.subtle.generateKey({ ...RSA, modulusLength: BITS, publicExponent: Uint8Array.of(1, 0, 1) }, true, [
    "sign",
    "verify",
  ]);
  return { name, pkcs8: new Uint8Array(await crypto.subtle.exportKey("pkcs8", pair.privateKey)), origin: "own" };
}

const PEM = /-----BEGIN ((?:RSA )?PRIVATE KEY)-----([A-Za-z0-9+/=\s]+)-----END \1-----/;
/** AlgorithmIdentifier of rsaEncryption (RFC 8017 §A.1), before an older key that says nothing of it. */
const RSA_ALGORITHM = Uint8Array.of(0x30, 0x0d, 0x06, 0x09, 0x2a, 0x86, 0x48, 0x86, 0xf7, 0x0d, 0x01, 0x01, 0x01, 0x05, 0x00);
const MAX_PEM = 16 * 1024;

/**
 * Reads a saved key as a computer's debugging program stores it (PEM, RFC 7468; PKCS #8, or the older PKCS #1).
 * @throws UnusableError in plain words for what is no such key
 */
export async function keyFromPem(text: string, name: string): Promise<ComputerKey> {
  const parts = text.length <= MAX_PEM ? PEM.exec(text) : null;
  if (!parts) {
    if (/^QAAAA|^[A-Za-z0-9+/]{600,}={0,2} /.test(text))
      throw new UnusableError("This is the public half of a key (adbkey.pub): the file adbkey beside it is needed.");
    throw new UnusableError("This is no saved debugging key: it is the file called adbkey, in the folder .android of the computer.");
  }
  try {
    const der = Uint8Array.from(atob(parts[2].replace(/\s/g, "")), (letter) => letter.charCodeAt(0));
    const pkcs8 = parts[1] === "PRIVATE KEY" ? der : wrapped(der);
    await crypto.subtle.importKey("pkcs8", new Uint8Array(pkcs8), RSA, false, ["sign"]);
    return { name, pkcs8, origin: "brought" };
  } catch {
    throw new UnusableError("This key is damaged, or it is not an RSA key.");
  }
}

/** PKCS #1 (RFC 8017 §A.1.2) as PKCS #8: version, algorithm, and the key as an octet string. */
function wrapped(pkcs1: Uint8Array): Uint8Array {
  return tagged(0x30, [Uint8Array.of(0x02, 0x01, 0x00), RSA_ALGORITHM, tagged(0x04, [pkcs1])]);
}

/** A DER value with its length in the shortest form (X.690 §8.1.3). */
function tagged(tag: number, parts: readonly Uint8Array[]): Uint8Array {
  const length = parts.reduce((sum, part) => sum + part.length, 0);
  const head = length < 0x80 ? [tag, length] : length < 0x100 ? [tag, 0x81, length] : [tag, 0x82, length >> 8, length & 0xff];
  const value = new Uint8Array(head.length + length);
  value.set(head);
  let at = head.length;
  for (const part of parts) {
    value.set(part, at);
    at += part.length;
  }
  return value;
}

/**
 * Kept keys as the ADB library asks for them: the own one is shown to a person, all are tried before. `tried` hears of each: the last
 * one before the phone lets this computer in is the one that it knows.
 */
export function keyRing(keys: readonly ComputerKey[], tried: (key: ComputerKey) => void = () => {}): AdbCredentialStore {
  const ownFirst = [...keys].sort((a, b) => Number(a.origin === "brought") - Number(b.origin === "brought"));
  return {
    generateKey(): AdbPrivateKey {
      throw new UnusableError("This computer has no debugging key of its own.");
    },
    *iterateKeys() {
      for (const key of ownFirst) {
        tried(key);
        yield { buffer: key.pkcs8, name: key.name };
      }
    },
  };
}

/** What the phone shows beside its question: MD5 of the public key as adb sends it, in pairs (AOSP, UsbDebuggingManager). */
export async function fingerprintOf({ pkcs8 }: ComputerKey): Promise<string> {
  const digest = await md5(adbGeneratePublicKey(pkcs8));
  return (digest.toUpperCase().match(/../g) ?? []).join(":");
}
