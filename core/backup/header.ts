/**
 * Header of an Android backup file, as the Android Open Source Project writes it (services/backup: BackupPasswordManager,
 * PasswordUtils, FullBackupEngine; from memory of that source): lines of text, then the payload.
 */
export interface BackupHeader {
  readonly version: number;
  readonly compressed: boolean;
  readonly encryption: Encryption | null;
  /** Bytes before the payload. */
  readonly length: number;
}

/** How the payload is encrypted: AES-256 in CBC mode under a master key, which is kept encrypted under the passphrase. */
export interface Encryption {
  readonly userSalt: Uint8Array;
  readonly checksumSalt: Uint8Array;
  readonly rounds: number;
  readonly userIv: Uint8Array;
  readonly masterKeyBlob: Uint8Array;
}

export const BACKUP_MAGIC = "ANDROID BACKUP\n";
/** All lines of a header together are shorter than this. */
export const MAX_HEADER = 4096;
/** Rounds of key stretching; the system writes 10,000. More than this is a trap. */
const MAX_ROUNDS = 1_000_000;

const hexBytes = (text: string): Uint8Array | null =>
  /^([0-9a-f]{2})+$/i.test(text) ? Uint8Array.from(text.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16)) : null;

/** Does a file of these first bytes call itself a backup? */
export function isBackup(head: Uint8Array): boolean {
  for (let at = 0; at < BACKUP_MAGIC.length; at++) if (head[at] !== BACKUP_MAGIC.charCodeAt(at)) return false;
  return true;
}

/** Reads the header from the first bytes of a file. @returns why not, in plain words, where it makes no sense */
export function readHeader(head: Uint8Array): BackupHeader | string {
  if (!isBackup(head)) return "it does not begin as a backup does";
  let at = BACKUP_MAGIC.length;
  const line = (): string | null => {
    const end = head.indexOf(0x0a, at);
    if (end < 0) return null;
    let text = "";
    for (; at < end; at++) text += String.fromCharCode(head[at]);
    at = end + 1;
    return text;
  };
  const version = Number(line());
  const compressed = line();
  const method = line();
  if (!Number.isInteger(version) || version < 1 || version > 5) return "it is of a version that is not known";
  if ((compressed !== "0" && compressed !== "1") || method === null) return "its first lines are broken";
  if (method === "none") return { version, compressed: compressed === "1", encryption: null, length: at };
  if (method !== "AES-256") return "it is encrypted in a way that is not known";
  const [userSalt, checksumSalt] = [hexBytes(line() ?? ""), hexBytes(line() ?? "")];
  const rounds = Number(line());
  const [userIv, masterKeyBlob] = [hexBytes(line() ?? ""), hexBytes(line() ?? "")];
  if (!userSalt || !checksumSalt || userIv?.length !== 16 || !masterKeyBlob || masterKeyBlob.length % 16 !== 0)
    return "what it says of its encryption is broken";
  if (!Number.isInteger(rounds) || rounds < 1 || rounds > MAX_ROUNDS) return "what it says of its encryption is broken";
  return { version, compressed: compressed === "1", encryption: { userSalt, checksumSalt, rounds, userIv, masterKeyBlob }, length: at };
}
