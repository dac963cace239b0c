import { UnusableError } from "../../../core/bytes/source.ts";
import type { CopyTarget } from "../../../core/medium/working-copy.ts";
import { type CopyRecord, copyFileName } from "../../kept/copy.ts";

export interface OpenTarget extends CopyTarget {
  /** Makes what was written until now last, where that can be done in the middle. @returns whether it does */
  settle(): boolean;
  /** Makes all of it last. */
  close(): Promise<void>;
}

/** A file in the browser's own storage: written in place. */
async function inBrowser(job: number, fresh: boolean): Promise<OpenTarget> {
  const folder = await navigator.storage.getDirectory();
  const handle = await (await folder.getFileHandle(copyFileName(job), { create: true })).createSyncAccessHandle();
  if (fresh) handle.truncate(0);
  return {
    async write(at, bytes) {
      if (handle.write(bytes, { at }) !== bytes.length)
        throw new UnusableError("The browser's storage is full: choose a file for the copy instead.");
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
  return {
    write: (position, data) => stream.write({ type: "write", position, data: data as Uint8Array<ArrayBuffer> }),
    settle: () => false,
    close: () => stream.close(),
  };
}

/** Opens where a copy is written; what an earlier run wrote stays. */
export const openTarget = ({ place, job, mark }: CopyRecord): Promise<OpenTarget> =>
  place?.kind === "file" ? inFile(place.handle, mark.done === 0) : inBrowser(job, mark.done === 0);
