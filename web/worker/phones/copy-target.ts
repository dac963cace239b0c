import { UnusableError } from "../../../core/bytes/source.ts";
import type { CopyTarget } from "../../../core/medium/working-copy.ts";
import { type CopyRecord, copyFileName } from "../../kept/copy.ts";

export interface OpenTarget extends CopyTarget {
  /** Makes what was written until now last, where that can be done in the middle. @returns whether it does */
  settle(): boolean;
  /** Makes all of it last. */
  close(): Promise<void>;
}

const FULL = "The browser's storage is full: make room on this computer and go on, or choose a file for the copy instead.";

/** A file in the browser's own storage: written in place. */
async function inBrowser(job: number, fresh: boolean): Promise<OpenTarget> {
  const folder = await navigator.storage.getDirectory();
  const handle = await (await folder.getFileHandle(copyFileName(job), { create: true })).createSyncAccessHandle();
  if (fresh) handle.truncate(0);
  return {
    async write(at, bytes) {
      if (handle.write(bytes, { at }) !== bytes.length) throw new UnusableError(FULL);
    },
    async read(at, length) {
      const bytes = new Uint8Array(length);
      return bytes.subarray(0, handle.read(bytes, { at }));
    },
    settle() {
      handle.flush();
      return true;
    },
    async close() {
      handle.flush();
      handle.close();
    },
  };
}

/** A chosen file: it takes what was written only when its stream is closed. */
async function inFile(file: FileSystemFileHandle, fresh: boolean): Promise<OpenTarget> {
  const stream = await file.createWritable({ keepExistingData: !fresh });
  const before = await file.getFile();
  return {
    read: async (at, length) => new Uint8Array(await before.slice(at, at + length).arrayBuffer()),
    write: (position, data) => stream.write({ type: "write", position, data: data as Uint8Array<ArrayBuffer> }),
    settle: () => false,
    close: () => stream.close(),
  };
}

/** Opens where a copy is written; what an earlier run wrote stays. */
export const openTarget = ({ place, job, mark }: CopyRecord): Promise<OpenTarget> =>
  place?.kind === "file" ? inFile(place.handle, mark.done === 0) : inBrowser(job, mark.done === 0);
