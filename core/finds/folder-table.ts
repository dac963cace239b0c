import type { Find } from "./find.ts";
import { Names } from "./find-columns.ts";

/** A folder of the tree that finds lie in. */
export interface FolderCount {
  /** Numbers of medium and volume with a full stop between them, a bar, and the path with a slash at its end. Finds whose folder is lost: a question mark for the path. */
  readonly key: string;
  /** Its last part. Null: the volume itself, or what has no folder. */
  readonly name: string | null;
  /** Finds in it and below that pass all filters but that of folders. */
  readonly count: number;
  /** Nothing in it or below is there any more: the folder is erased, or everything in it is. */
  readonly erased: boolean;
  readonly hasFolders: boolean;
}

export const LOST_FOLDER = "?";

/** Where a find lies in the tree. */
export const folderKey = (medium: number, { volume, path }: Pick<Find, "volume" | "path">): string =>
  `${medium}.${volume ?? ""}|${path === null ? LOST_FOLDER : path.slice(0, path.lastIndexOf("/") + 1)}`;

/** Medium, volume (null: outside of any) and path that a folder's key speaks of. */
export function partsOfFolder(key: string): { medium: number; volume: number | null; path: string } {
  const bar = key.indexOf("|");
  const [medium, volume = ""] = key.slice(0, bar).split(".");
  return { medium: Number(medium), volume: volume === "" ? null : Number(volume), path: key.slice(bar + 1) };
}

/** The last part of a folder's key. Null for a volume, and for what has no folder. */
function nameOfFolder(key: string): string | null {
  const path = key.slice(key.indexOf("|") + 1);
  return path === "" || path === LOST_FOLDER || path === "/" ? null : path.slice(path.lastIndexOf("/", path.length - 2) + 1, -1);
}

/** All folders of a job's finds, each once, by number: most finds share theirs. */
export class FolderTable {
  readonly #keys = new Names<string>();

  get length(): number {
    return this.#keys.all.length;
  }

  keyOf = (number: number): string => this.#keys.at(number);

  numberOf = (key: string): number => this.#keys.numberOf(key);

  /** By number: is it this folder, or below it? */
  within(key: string): Uint8Array {
    return Uint8Array.from(this.#keys.all, (one) => Number(one.startsWith(key)));
  }

  /** The folders right under one. `passed`: finds in each folder by number; `held`: whether nothing (0), only erased things (1) or something that is there (2) lies in it. */
  under(under: string, passed: Uint32Array, held: Uint8Array): FolderCount[] {
    const children = new Map<string, { count: number; erased: boolean; hasFolders: boolean }>();
    for (const [number, folder] of this.#keys.all.entries()) {
      if (held[number] === 0 || !folder.startsWith(under) || folder === under) continue;
      const key = stepDown(folder, under);
      // What lies in the root itself is in the volume.
      if (under.endsWith("|") && key === `${under}/`) continue;
      const child = children.get(key) ?? { count: 0, erased: true, hasFolders: false };
      child.count += passed[number];
      if (held[number] === 2) child.erased = false;
      if (folder.length > key.length && !(under === "" && folder.length === key.length + 1)) child.hasFolders = true;
      children.set(key, child);
    }
    return [...children]
      .map(([key, child]) => ({ key, name: nameOfFolder(key), ...child }))
      .sort((a, b) => (a.name ?? "").localeCompare(b.name ?? ""));
  }
}

/** The folder right under `under` on the way to a deeper one. */
function stepDown(folder: string, under: string): string {
  const bar = folder.indexOf("|") + 1;
  if (under === "") return folder.slice(0, bar);
  // The root's own slash belongs to the volume.
  const end = folder.indexOf("/", under.length + (under.endsWith("|") ? 1 : 0)) + 1;
  return folder.slice(0, end || folder.length);
}
