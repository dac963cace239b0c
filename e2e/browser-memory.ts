import type { Page } from "@playwright/test";
import type { Find } from "../core/finds/find.ts";
import type { Checkpoint } from "../core/scan/checkpoint.ts";

/** A medium as its row stands in the browser's database. */
export interface KeptMedium {
  readonly id: number;
  readonly kind: string;
  readonly name: string;
  readonly scan: {
    readonly status: string;
    readonly firstPack: number;
    readonly rows: { present: number; erased: number };
    readonly counts: Record<string, Record<string, number>>;
    readonly checkpoint: Checkpoint;
  };
}
export interface KeptPart {
  readonly medium: number;
  readonly status: string;
  readonly size: number;
  readonly mark: { readonly done: number };
  readonly sha256: string | null;
}
interface Tables {
  readonly media: KeptMedium;
  readonly parts: KeptPart;
  readonly people: { readonly medium: number; readonly entries: readonly { readonly id: string }[] };
  readonly packs: { readonly medium: number; readonly finds: readonly Find[]; readonly hidden: readonly number[] };
}

/** What stands in the browser's database now: read beside the application, not through it. */
export const kept = <Name extends keyof Tables>(page: Page, table: Name): Promise<Tables[Name][]> =>
  page.evaluate(
    (name) =>
      new Promise<never[]>((done) => {
        const opening = indexedDB.open("jubar");
        opening.onsuccess = () => {
          const asked = opening.result.transaction(name).objectStore(name).getAll();
          asked.onsuccess = () => {
            opening.result.close();
            done(asked.result as never[]);
          };
        };
      }),
    table,
  );

/** The finds of a medium that are shown. */
export async function keptFinds(page: Page, medium: number): Promise<Find[]> {
  const packs = (await kept(page, "packs")).filter((pack) => pack.medium === medium);
  return packs.flatMap(({ finds, hidden }) => finds.filter((_, position) => !hidden.includes(position)));
}

/** Which messages, contacts, calls and so on are kept of a medium. */
export async function keptPeople(page: Page, medium: number): Promise<string[]> {
  const packs = (await kept(page, "people")).filter((pack) => pack.medium === medium);
  return packs.flatMap(({ entries }) => entries.map(({ id }) => id));
}

/** A file of the browser's private storage whose path matches. */
export async function storedFile(page: Page, path: RegExp): Promise<Buffer> {
  const content = await page.evaluate(async (pattern) => {
    const find = async (folder: FileSystemDirectoryHandle, at: string): Promise<File | null> => {
      for await (const [name, handle] of folder.entries()) {
        const found =
          handle.kind === "directory"
            ? await find(handle as FileSystemDirectoryHandle, `${at}${name}/`)
            : new RegExp(pattern).test(at + name)
              ? await (handle as FileSystemFileHandle).getFile()
              : null;
        if (found) return found;
      }
      return null;
    };
    const file = await find(await navigator.storage.getDirectory(), "");
    if (!file) return null;
    const url: string = await new Promise((done) => {
      const reader = new FileReader();
      reader.onload = () => done(String(reader.result));
      reader.readAsDataURL(file);
    });
    return url.slice(url.indexOf(",") + 1);
  }, path.source);
  if (content === null) throw new Error(`nothing in the browser's storage is called ${path.source}`);
  return Buffer.from(content, "base64");
}
