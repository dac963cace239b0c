import { cbc } from "@noble/ciphers/aes.js";
import { Unzlib } from "fflate";
import { type ByteSource, UnusableError } from "../bytes/source.ts";
import { isBackup, MAX_HEADER, readHeader } from "./header.ts";
import { type MasterKey, openMasterKey } from "./keys.ts";

/** Bytes read at a time. Whole blocks of the cipher. */
const PIECE = 1024 * 1024;
const BLOCK = 16;
/** Deflate packs a thousandfold at most (1032:1, RFC 1951 by its longest match): more than this beyond a first stretch is a trap. */
const MOST_PACKED = 250;
const ALWAYS_ALLOWED = 256 * 1024 * 1024;

export class PassphraseNeeded extends UnusableError {
  constructor(
    name: string,
    /** One was given, and was not the right one. */
    readonly wrong: boolean,
  ) {
    super(wrong ? `This is not the passphrase of ${name}.` : `${name} is encrypted: its owner's passphrase is needed.`);
    this.name = "PassphraseNeeded";
  }
}

/** Is this source a backup by its first bytes? */
export const holdsBackup = async (source: ByteSource): Promise<boolean> =>
  source.size > 24 && isBackup(await source.read(0, Math.min(source.size, MAX_HEADER)));

/**
 * The tar archive in a backup, piece by piece: decrypted with the owner's passphrase, unpacked. One that is cut off or broken
 * goes as far as it goes; `troubles` is told why it ends.
 * @throws PassphraseNeeded without the right passphrase; UnusableError for a header that makes no sense, or a trap
 */
export async function* unpackBackup(
  source: ByteSource,
  passphrase: string | null,
  trouble: (what: string) => void,
): AsyncGenerator<Uint8Array> {
  const header = readHeader(await source.read(0, Math.min(source.size, MAX_HEADER)));
  if (typeof header === "string") throw new UnusableError(`${source.name} cannot be opened as a backup: ${header}.`);
  let key: MasterKey | null = null;
  if (header.encryption) {
    if (passphrase === null) throw new PassphraseNeeded(source.name, false);
    key = await openMasterKey(header.encryption, header.version, passphrase);
    if (!key) throw new PassphraseNeeded(source.name, true);
  }
  let packed = 0;
  let unpacked = 0;
  let out: Uint8Array[] = [];
  const inflate = header.compressed ? new Unzlib((piece) => out.push(piece)) : null;
  for await (const piece of decrypted(source, header.length, key, trouble)) {
    packed += piece.length;
    if (!inflate) {
      yield piece;
      continue;
    }
    // Small steps: what one of them becomes is checked before the next.
    for (let at = 0; at < piece.length; at += STEP) {
      try {
        inflate.push(piece.subarray(at, at + STEP));
      } catch {
        yield* out;
        trouble(`what is packed is broken after ${unpacked} bytes: what follows is lost`);
        return;
      }
      for (const bytes of out) {
        unpacked += bytes.length;
        if (unpacked > ALWAYS_ALLOWED && unpacked > packed * MOST_PACKED)
          throw new UnusableError(
            `${source.name} unpacks to more than ${MOST_PACKED} times its size: it is made to fill the disk, and was stopped.`,
          );
        yield bytes;
      }
      out = [];
    }
  }
  if (!inflate) return;
  try {
    inflate.push(new Uint8Array(0), true);
  } catch {
    trouble(`the backup is cut off: what is packed has no end after ${unpacked} bytes, and what followed is lost`);
  }
  yield* out;
}

/** Bytes that are unpacked at once: 16 MiB come of them at most. */
const STEP = 16 * 1024;

async function* decrypted(
  source: ByteSource,
  from: number,
  key: MasterKey | null,
  trouble: (what: string) => void,
): AsyncGenerator<Uint8Array> {
  let iv = key?.iv;
  for (let at = from; at < source.size; at += PIECE) {
    const piece = await source.read(at, Math.min(PIECE, source.size - at));
    if (!key || !iv) {
      yield piece;
      continue;
    }
    const whole = piece.length - (piece.length % BLOCK);
    if (whole < piece.length) trouble("the backup is cut off in the middle of an encrypted block");
    if (whole === 0) return;
    const isLast = at + PIECE >= source.size && whole === piece.length;
    const plain = cbc(key.key, iv, { disablePadding: true }).decrypt(piece.subarray(0, whole));
    iv = piece.slice(whole - BLOCK, whole);
    // PKCS #7: the last byte says how many of the last block are none.
    const padding = isLast ? plain[plain.length - 1] : 0;
    yield padding > 0 && padding <= BLOCK ? plain.subarray(0, plain.length - padding) : plain;
  }
}
