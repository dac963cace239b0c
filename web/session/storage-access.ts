import { CopyRecord, copyFileName, lacksOf } from "../kept/copy.ts";
import { database } from "../kept/database.ts";
import type { Lacks, SourceRef } from "../kept/job.ts";
import { phoneDesk } from "../phones/phones.ts";
import type { Grant } from "../worker/protocol.ts";

type Handle = FileSystemFileHandle | FileSystemDirectoryHandle;

/** How a job's storage can be opened now. */
export type Access =
  | { readonly kind: "granted"; readonly grant: Grant }
  /** The browser wants a click before it opens the stored handle again. */
  | { readonly kind: "needs click"; readonly handle: Handle; readonly lacks?: Lacks }
  /** It is read directly off a phone that is not there, or does not let it be read. */
  | { readonly kind: "needs phone"; readonly serial: string }
  /** No handle is kept, or the file is gone: the person must give it again. */
  | { readonly kind: "needs file"; readonly because: string };

/** File handles have permissions in Chromium; the standard's types do not tell of them yet. */
interface Permissions {
  queryPermission?(options: { mode: "read" }): Promise<PermissionState>;
  requestPermission?(options: { mode: "read" }): Promise<PermissionState>;
}

/** Files and folders given in this page's life, by sample: no need to ask for them again. */
const given = new Map<string, Grant>();
export const rememberGrant = (sample: string, grant: Grant): void => void given.set(sample, grant);

const fromHandle = async (handle: Handle, lacks?: Lacks): Promise<Access> => {
  if (handle.kind === "directory") return { kind: "granted", grant: { kind: "folder", handle: handle as FileSystemDirectoryHandle } };
  try {
    return { kind: "granted", grant: { kind: "file", file: await (handle as FileSystemFileHandle).getFile(), ...(lacks && { lacks }) } };
  } catch {
    return { kind: "needs file", because: "The file is not where it was." };
  }
};

/** A working copy in the browser's own storage. */
async function fromBrowser({ job, name }: SourceRef): Promise<Access> {
  try {
    const folder = await navigator.storage.getDirectory();
    const file = await (await folder.getFileHandle(copyFileName(job ?? 0))).getFile();
    const record = CopyRecord.safeParse(await database.copies.get(job ?? 0)).data;
    const lacks = record && lacksOf(record);
    return { kind: "granted", grant: { kind: "file", file: new File([file], name), ...(lacks && { lacks }) } };
  } catch {
    return { kind: "needs file", because: "The working copy is not in the browser's storage any more." };
  }
}

export async function accessTo(source: SourceRef): Promise<Access> {
  if (source.kind === "url" && source.url)
    return { kind: "granted", grant: { kind: "url", url: source.url, name: source.name, size: source.size } };
  if (source.kind === "copy") return fromBrowser(source);
  if (source.kind === "phone" && source.job !== undefined) {
    const serial = await phoneDesk().lacks(source.job);
    if (serial !== null) return { kind: "needs phone", serial };
    return { kind: "granted", grant: { kind: "port", port: await phoneDesk().port(source.job), name: source.name, size: source.size } };
  }
  const grant = given.get(source.sample);
  if (grant) return { kind: "granted", grant };
  const { handle } = source;
  if (!handle)
    return {
      kind: "needs file",
      because: `This browser cannot open a ${source.kind === "folder" ? "folder" : "dropped file"} again by itself.`,
    };
  const state = (await (handle as Permissions).queryPermission?.({ mode: "read" })) ?? "granted";
  return state === "granted"
    ? fromHandle(handle, source.lacks)
    : { kind: "needs click", handle, ...(source.lacks && { lacks: source.lacks }) };
}

/** Asks the browser for the handle again; must be called from a click. */
export async function askAgain(handle: Handle, lacks?: Lacks): Promise<Access> {
  const state = (await (handle as Permissions).requestPermission?.({ mode: "read" })) ?? "granted";
  return state === "granted" ? fromHandle(handle, lacks) : { kind: "needs file", because: "The browser was told not to open it." };
}
