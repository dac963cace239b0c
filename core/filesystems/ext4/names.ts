import type { History, SeenName } from "./history.ts";
import { NOW } from "./history.ts";
import { FileType } from "./layout.ts";

/** A folder by its inode, in a span of time: an inode number may have been several folders one after the other. */
export interface FolderOwner {
  readonly inode: number;
  readonly when: number;
}

/** A path that was worked out. */
export interface FoundName {
  readonly name: string;
  /** Null: its folder is not known. */
  readonly path: string | null;
  readonly record: SeenName;
}

/** Folders within folders before we stop believing. */
const MAX_DEPTH = 64;
const MAX_PATH = 4096;

/** Which name and folder an inode had at a time: standing folders by their paths, erased ones through the names they had. */
export class Names {
  readonly #history: History;
  /** Paths of folders that stand, with a slash at the end. */
  readonly paths = new Map<number, string>();
  /** Whose list each block was, as far as known. */
  readonly owners = new Map<number, FolderOwner[]>();

  constructor(history: History) {
    this.#history = history;
  }

  own(block: number, inode: number, when: number): void {
    const owners = this.owners.get(block);
    if (!owners) this.owners.set(block, [{ inode, when }]);
    else if (!owners.some((one) => one.inode === inode && one.when === when)) owners.push({ inode, when });
  }

  /** The folder that a name stood in. */
  #folderOf({ folder, block, when }: SeenName): number | null {
    if (folder !== null) return folder;
    const owners = this.owners.get(block) ?? [];
    // The nearest in time: whoever owned the block when, or soon after, this copy of it was written.
    const near = [...owners].sort((a, b) => Math.abs(a.when - when) - Math.abs(b.when - when));
    return near[0]?.inode ?? null;
  }

  /**
   * The name that an inode had between two times: the latest that was in use then, else one in slack.
   * `kind`: what its entry must say that it is, where it says anything.
   */
  of(inode: number, from: number, until: number, kind: "regular" | "folder", depth = 0): FoundName | null {
    const wanted = kind === "regular" ? FileType.regular : FileType.directory;
    const worth = (name: SeenName): number => {
      if (!name.live) return 1;
      return name.when >= from && name.when <= until ? 3 : name.when < from ? 2 : -1;
    };
    const candidates = (this.#history.names.get(inode) ?? [])
      .filter((name) => (name.fileType === FileType.unknown || name.fileType === wanted) && worth(name) >= 0)
      .sort((a, b) => worth(b) - worth(a) || b.when - a.when);
    const [record] = candidates;
    if (!record) return null;
    return { name: record.name, path: this.#pathOf(record, depth), record };
  }

  #pathOf(record: SeenName, depth: number): string | null {
    const folder = this.#folderOf(record);
    if (folder === null || depth >= MAX_DEPTH) return null;
    const standing = this.paths.get(folder);
    const above = standing ?? this.#erasedFolder(folder, record.when, depth);
    return above === null || above.length + record.name.length > MAX_PATH ? null : above + record.name;
  }

  #erasedFolder(folder: number, when: number, depth: number): string | null {
    const found = this.of(folder, 0, when === NOW ? NOW - 1 : when, "folder", depth + 1);
    return found?.path == null ? null : `${found.path}/`;
  }
}
