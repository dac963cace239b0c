import { cbc } from "@noble/ciphers/aes.js";
import { inflated, TRAP } from "../bytes/inflate.ts";
import { type ByteSource, UnusableError } from "../bytes/source.ts";
import { isBackup, MAX_HEADER, readHeader } from "./header.ts";
import { type MasterKey, openMasterKey } from "./keys.ts";

/** Bytes read at a time. Whole blocks of the cipher. */
const PIECE = 1024 * 1024;
const BLOCK = 16;

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
  const plain = decrypted(source, header.length, key, trouble);
  if (!header.compressed) {
    yield* plain;
    return;
  }
  let trap = false;
  yield* inflated(plain, "zlib", ({ how, unpacked }) => {
    trap = how === "trap";
    if (how === "broken") trouble(`what is packed is broken after ${unpacked} bytes: what follows is lost`);
    if (how === "cut off") trouble(`the backup is cut off: what is packed has no end after ${unpacked} bytes, and what followed is lost`);
  });
  if (trap) throw new UnusableError(`${source.name} ${TRAP}.`);
}

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
