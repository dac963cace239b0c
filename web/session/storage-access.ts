import { loadPart } from "../kept/database.ts";
import type { Sample, SourceRef } from "../kept/medium.ts";
import { lacksOf } from "../kept/part.ts";
import type { Lacks } from "../kept/stretch.ts";
import { isUnpacked } from "../kept/unpacked-folder.ts";
import { phoneDesk } from "../phones/phones.ts";
import type { Grant } from "../worker/storage/grant.ts";

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
const nameOfSample = (sample: Sample): string => JSON.stringify(sample);
export const rememberGrant = (sample: Sample, grant: Grant): void => void given.set(nameOfSample(sample), grant);

const fromHandle = async (handle: Handle, lacks?: Lacks): Promise<Access> => {
  if (handle.kind === "directory") return { kind: "granted", grant: { kind: "folder", handle: handle as FileSystemDirectoryHandle } };
  try {
    return { kind: "granted", grant: { kind: "file", file: await (handle as FileSystemFileHandle).getFile(), ...(lacks && { lacks }) } };
  } catch {
    return { kind: "needs file", because: "The file is not where it was." };
  }
};

/** A working copy in the browser's own storage. */
async function fromBrowser(medium: number, name: string): Promise<Access> {
  try {
    const part = await loadPart(medium);
    if (part?.place?.kind !== "browser") throw new Error("no copy");
    const folder = await navigator.storage.getDirectory();
    const file = await (await folder.getFileHandle(part.place.file)).getFile();
    const lacks = lacksOf(part);
    return { kind: "granted", grant: { kind: "file", file: new File([file], name), ...(lacks && { lacks }) } };
  } catch {
    return { kind: "needs file", because: "The working copy is not in the browser's storage any more." };
  }
}

/** How a medium's storage can be opened now. A port is used up by whoever opens it: each asks for one of its own. */
export async function accessTo(medium: number, source: SourceRef): Promise<Access> {
  // What a backup was unpacked to opens by itself: the backup's own file is not needed for it.
  if (source.unpacked && (await isUnpacked(source.unpacked)))
    return { kind: "granted", grant: { kind: "unpacked", archive: source.unpacked, name: source.name } };
  if (source.kind === "url" && source.url)
    return { kind: "granted", grant: { kind: "url", url: source.url, name: source.name, size: source.size } };
  if (source.kind === "copy") return fromBrowser(medium, source.name);
  if (source.kind === "phone") {
    const serial = await phoneDesk().lacks(medium);
    if (serial !== null) return { kind: "needs phone", serial };
    return { kind: "granted", grant: { kind: "port", port: await phoneDesk().port(medium), name: source.name, size: source.size } };
  }
  const grant = given.get(nameOfSample(source.sample));
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
