import { promisify } from "node:util";
import { deflate } from "node:zlib";
import { memorySource } from "../../core/bytes/memory-source.ts";
import { tarSource } from "../../core/filesystems/tar/tar-source.ts";
import type { PracticePhone } from "./practice-phone.ts";

/** Head of a backup that is compressed and not encrypted (AOSP, BackupManagerService): magic, version, compressed, encryption. */
const HEAD = "ANDROID BACKUP\n5\n1\nnone\n";
/** An invented app that lets its files be backed up. */
const APP = "org.example.wagonnotes";
const NOTES = "Lantern scene: two candles, not three.\nAsk Ana for the blue cloth.\n";
/** Autumn 2026, in milliseconds since 1970. */
const WRITTEN = Date.UTC(2026, 4, 6, 21, 14);

/** The phone's own backup service, by the words of its request (`-all`, `-noapk`, names of apps; AOSP, adb, SERVICES.TXT): asks on the screen first, then sends apps' files as they would be restored. */
export async function writeBackup(
  asked: readonly string[],
  phone: PracticePhone,
  write: (bytes: Uint8Array) => Promise<void>,
): Promise<void> {
  const apps = asked.filter((word) => !word.startsWith("-"));
  if (!(await phone.ask("backup", apps.length > 0 ? apps.join(", ") : "all apps that allow it"))) return;
  const known = apps.length === 0 || apps.includes(APP);
  const content = Buffer.from(NOTES);
  const members = known
    ? [{ path: `apps/${APP}/f/notes.txt`, size: content.length, modified: WRITTEN, content: memorySource(content) }]
    : [];
  const tar = tarSource("backup", members);
  const packed = await promisify(deflate)(await tar.read(0, tar.size));
  await write(Buffer.concat([Buffer.from(HEAD), packed]));
}
