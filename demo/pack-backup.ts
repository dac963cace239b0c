import { createCipheriv, createHash, pbkdf2Sync } from "node:crypto";
import { deflateSync } from "node:zlib";

/** How a backup is packed. */
export interface Packing {
  readonly compressed?: boolean;
  /** Encrypts it: AES-256 under a master key that this opens. */
  readonly passphrase?: string;
  readonly rounds?: number;
}

/** The same bytes for the same name: a backup that is built anew is the same file. */
const bytesOf = (name: string, length: number): Buffer => {
  const parts: Buffer[] = [];
  for (let number = 0; parts.length * 32 < length; number++) parts.push(createHash("sha256").update(`${name} ${number}`).digest());
  return Buffer.concat(parts).subarray(0, length);
};
const encrypted = (key: Buffer, iv: Buffer, plain: Buffer): Buffer => {
  const cipher = createCipheriv("aes-256-cbc", key, iv);
  return Buffer.concat([cipher.update(plain), cipher.final()]);
};
const sized = (bytes: Buffer): Buffer => Buffer.concat([Buffer.from([bytes.length]), bytes]);
const hex = (bytes: Buffer): string => bytes.toString("hex").toUpperCase();

/** Packs a tar archive as an Android backup file of version 5, by Node's own cryptography and zlib. */
export function packBackup(tar: Uint8Array, { compressed = true, passphrase, rounds = 10_000 }: Packing = {}): Buffer {
  const payload = compressed ? deflateSync(tar) : Buffer.from(tar);
  const lines = ["ANDROID BACKUP", "5", compressed ? "1" : "0"];
  if (passphrase === undefined) return Buffer.concat([Buffer.from(`${[...lines, "none"].join("\n")}\n`), payload]);
  const [userSalt, checkSalt, userIv, iv, key] = [
    bytesOf("user salt", 64),
    bytesOf("check salt", 64),
    bytesOf("user iv", 16),
    bytesOf("iv", 16),
    bytesOf("key", 32),
  ];
  // The system takes the key's bytes for characters, negative ones with their sign, and writes those as UTF-8.
  const asText = Buffer.from(String.fromCharCode(...Array.from(key, (byte) => (byte < 128 ? byte : 0xff00 | byte))), "utf8");
  const check = pbkdf2Sync(asText, checkSalt, rounds, 32, "sha1");
  const blob = encrypted(
    pbkdf2Sync(passphrase, userSalt, rounds, 32, "sha1"),
    userIv,
    Buffer.concat([sized(iv), sized(key), sized(check)]),
  );
  const head = [...lines, "AES-256", hex(userSalt), hex(checkSalt), rounds, hex(userIv), hex(blob)];
  return Buffer.concat([Buffer.from(`${head.join("\n")}\n`), encrypted(key, iv, payload)]);
}
