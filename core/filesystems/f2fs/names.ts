import type { Name } from "./folder.ts";
import type { InodeNode } from "./node.ts";
import type { OldNodes } from "./old-nodes.ts";

const MAX_DEPTH = 64;
const MAX_PATH = 4096;
/** Given-up entries kept for one inode. */
const MAX_ENTRIES = 32;

interface SeenName extends Name {
  readonly folder: number;
  readonly place: number;
}

/** Which name and folder an erased inode had: by its own block, and by entries that still stand in lists of folders. */
export class Names {
  /** Paths of folders that stand, with a slash at the end. */
  readonly paths = new Map<number, string>();
  readonly #seen = new Map<number, SeenName[]>();
  readonly #old: OldNodes;

  constructor(old: OldNodes) {
    this.#old = old;
  }

  /** An entry that was given up, in the list of a folder. `place`: its absolute byte. */
  note(name: Name, folder: number, place: number): void {
    const known = this.#seen.get(name.ino) ?? [];
    if (known.length === 0) this.#seen.set(name.ino, known);
    if (known.length < MAX_ENTRIES && !known.some((one) => one.folder === folder && one.name === name.name))
      known.push({ ...name, folder, place });
  }

  of(inode: InodeNode): { name: string | null; path: string | null; place: number | null } {
    const seen = this.#seen.get(inode.ino) ?? [];
    // The inode's block names it as it was; where it says that its folder may be another, an entry of that name tells which.
    const same = seen.filter(({ name }) => name === inode.name);
    const entry = same.find(({ folder }) => folder === inode.parent) ?? same.at(-1) ?? (inode.name === null ? seen.at(-1) : undefined);
    const name = inode.name ?? entry?.name ?? null;
    const folder = entry && (inode.parentLost || entry.folder === inode.parent) ? entry.folder : inode.parent;
    const above = this.pathOf(folder, 0);
    return {
      name,
      path: name === null || above === null || above.length + name.length > MAX_PATH ? null : above + name,
      place: entry?.place ?? null,
    };
  }

  /** Path of a folder: as it stands, or through the newest copy of its inode. */
  pathOf(folder: number, depth: number): string | null {
    const standing = this.paths.get(folder);
    if (standing !== undefined) return standing;
    const copy = this.#old.inodes.get(folder)?.findLast(({ mode }) => mode === "folder");
    if (!copy?.name || depth >= MAX_DEPTH) return null;
    const above = this.pathOf(copy.parent, depth + 1);
    return above === null ? null : `${above}${copy.name}/`;
  }
}
