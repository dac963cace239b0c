import { describe, expect, test } from "vitest";
import { packBackup } from "../../demo/pack-backup.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { UnusableError } from "../bytes/source.ts";
import { PassphraseNeeded, unpackBackup } from "./unpack.ts";

/** Something that deflates, but not to nothing. */
const TAR = new Uint8Array(3_000_000).map((_, index) => (index * 2654435761) >>> ((index >> 9) % 24));

async function unpacked(backup: Uint8Array, passphrase: string | null = null): Promise<{ bytes: Uint8Array; troubles: string[] }> {
  const pieces: Uint8Array[] = [];
  const troubles: string[] = [];
  for await (const piece of unpackBackup(memorySource(backup, "phone.ab"), passphrase, (what) => troubles.push(what))) pieces.push(piece);
  return { bytes: new Uint8Array(Buffer.concat(pieces)), troubles };
}

// Packed by Node's own zlib and cryptography (OpenSSL), by the layout of the Android Open Source Project.
describe("a backup", () => {
  test.each([
    ["plain", { compressed: false }, null],
    ["packed", { compressed: true }, null],
    ["encrypted", { compressed: true, passphrase: "the moon rig", rounds: 700 }, "the moon rig"],
    ["encrypted, not packed", { compressed: false, passphrase: "Ümlaut 🎪", rounds: 700 }, "Ümlaut 🎪"],
  ] as const)("%s, gives its archive byte for byte", async (_, packing, passphrase) => {
    const { bytes, troubles } = await unpacked(packBackup(TAR, packing), passphrase);
    expect(Buffer.from(bytes).equals(TAR)).toBe(true);
    expect(troubles).toEqual([]);
  });

  test("asks for the passphrase, and says when it was another", async () => {
    const backup = packBackup(TAR, { passphrase: "right", rounds: 700 });
    await expect(unpacked(backup)).rejects.toMatchObject({ name: "PassphraseNeeded", wrong: false });
    await expect(unpacked(backup, "wrong")).rejects.toMatchObject({ wrong: true, message: "This is not the passphrase of phone.ab." });
    expect(new PassphraseNeeded("a", false)).toBeInstanceOf(UnusableError);
  });

  test("whose key does not agree with its check sum is not opened with it", async () => {
    const lines = packBackup(TAR, { passphrase: "right", rounds: 700 }).toString("latin1").split("\n");
    // Another salt for the sum: the passphrase still opens the key, but the sum over it is another.
    lines[5] = `${lines[5].slice(0, -2)}${lines[5].endsWith("00") ? "01" : "00"}`;
    await expect(unpacked(Buffer.from(lines.join("\n"), "latin1"), "right")).rejects.toMatchObject({ wrong: true });
  });

  test.each([
    ["packed", {}, null],
    ["encrypted", { passphrase: "right", rounds: 700 }, "right"],
  ] as const)("%s and cut off, goes as far as it goes", async (_, packing, passphrase) => {
    const backup = packBackup(TAR, packing);
    const { bytes, troubles } = await unpacked(backup.subarray(0, Math.floor(backup.length * 0.6) + 5), passphrase);
    expect(troubles.join()).toMatch(/the backup is cut off: what is packed has no end after \d+ bytes/);
    expect(bytes.length).toBeGreaterThan(TAR.length * 0.4);
    expect(Buffer.from(bytes).equals(TAR.subarray(0, bytes.length))).toBe(true);
  });

  test("that is made to fill the disk is stopped", async () => {
    const bomb = packBackup(new Uint8Array(400 * 1024 * 1024));
    expect(bomb.length).toBeLessThan(600_000);
    let given = 0;
    const running = (async () => {
      for await (const piece of unpackBackup(memorySource(bomb, "bomb.ab"), null, () => {})) given += piece.length;
    })();
    await expect(running).rejects.toThrow("bomb.ab unpacks to more than 250 times its size: it is made to fill the disk, and was stopped.");
    expect(given).toBeLessThan(300 * 1024 * 1024);
  });

  test.each([
    ["ANDROID BACKUP\n9\n1\nnone\n", "it is of a version that is not known"],
    ["ANDROID BACKUP\n5\nx\nnone\n", "its first lines are broken"],
    ["ANDROID BACKUP\n5\n1\nROT13\n", "it is encrypted in a way that is not known"],
    ["ANDROID BACKUP\n5\n1\nAES-256\nAB\nCD\n99999999\n00\nFF\n", "what it says of its encryption is broken"],
  ])("%j cannot be opened, and it says why", async (head, because) => {
    const bytes = new TextEncoder().encode(head.padEnd(100, "\0"));
    await expect(unpacked(bytes)).rejects.toThrow(`phone.ab cannot be opened as a backup: ${because}.`);
  });
});
