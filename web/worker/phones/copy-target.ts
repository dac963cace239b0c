import { UnusableError } from "../../../core/bytes/source.ts";
import type { OpenTarget } from "../../../core/medium/copying.ts";
import type { KeptPart } from "../../kept/part.ts";
import { openOwnFile } from "../storage/own-file.ts";

const FULL = "The browser's storage is full: make room on this computer and go on, or choose a file for the copy instead.";

/** A file in the browser's own storage: written in place. */
async function inBrowser(name: string, fresh: boolean): Promise<OpenTarget> {
  const handle = await openOwnFile(await navigator.storage.getDirectory(), name);
  if (fresh) handle.truncate(0);
  return {
    async write(at, bytes) {
      if (handle.write(bytes, { at }) !== bytes.length) throw new UnusableError(FULL);
    },
    async read(at, length) {
      const bytes = new Uint8Array(length);
      return bytes.subarray(0, handle.read(bytes, { at }));
    },
    async settle() {
      handle.flush();
      return true;
    },
    async close() {
      handle.flush();
      handle.close();
    },
  };
}

/** A chosen file: it takes what was written only when its stream is closed, so a rest closes it. */
async function inFile(file: FileSystemFileHandle, fresh: boolean): Promise<OpenTarget> {
  let stream: FileSystemWritableFileStream | null = await file.createWritable({ keepExistingData: !fresh });
  const close = async () => {
    const open = stream;
    stream = null;
    await open?.close();
  };
  return {
    read: async (at, length) => new Uint8Array(await (await file.getFile()).slice(at, at + length).arrayBuffer()),
    async write(position, data) {
      stream ??= await file.createWritable({ keepExistingData: true });
      await stream.write({ type: "write", position, data: data as Uint8Array<ArrayBuffer> });
    },
    async settle(isResting) {
      if (isResting) await close();
      return isResting;
    },
    close,
  };
}

/** Opens where a copy is written; what an earlier run wrote stays. */
export const openTarget = (place: NonNullable<KeptPart["place"]>, fresh: boolean): Promise<OpenTarget> =>
  place.kind === "file" ? inFile(place.handle, fresh) : inBrowser(place.file, fresh);
