import type { Adb } from "@yume-chan/adb";
import { whileConnected } from "./shell.ts";

/** How every app backup begins (AOSP, BackupManagerService: magic, version, compressed, encryption, a line each). */
const MAGIC = "ANDROID BACKUP\n";
/** Names of apps as the system writes them: they are put into a request. */
const APP = /^[A-Za-z][\w.]{0,200}$/;

export type BackupEnd =
  | { readonly ok: true; readonly bytes: number; readonly encrypted: boolean }
  | { readonly ok: false; readonly because: string };

/**
 * Asks the phone's own backup service for apps' files. The phone shows a full-screen question: nothing comes until the
 * person there confirms it. Pieces go to `write` as they come.
 * @throws Error when the connection ends
 */
export async function backUpApps(adb: Adb, apps: readonly string[], write: (bytes: Uint8Array) => Promise<void>): Promise<BackupEnd> {
  const wrong = apps.find((app) => !APP.test(app));
  if (wrong !== undefined) return { ok: false, because: `${wrong} is no name of an app.` };
  const socket = await whileConnected(adb, adb.createSocket(`backup:${apps.length > 0 ? apps.join(" ") : "-all -noapk"}`));
  const reader = socket.readable.getReader();
  let head = "";
  let bytes = 0;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    if (head.length < 64) head += String.fromCharCode(...value.subarray(0, 64));
    if (head.length >= MAGIC.length && !head.startsWith(MAGIC))
      return { ok: false, because: "The phone answered with something that is no backup." };
    bytes += value.length;
    await write(value);
  }
  if (bytes <= MAGIC.length) return { ok: false, because: "The phone gave no backup: its question was refused, or the app allows none." };
  return { ok: true, bytes, encrypted: head.split("\n")[3] !== "none" };
}
