import type { Find } from "./find.ts";
import type { FindColumns, Names } from "./find-columns.ts";
import { NAMELESS } from "./find-orders.ts";
import { type FolderTable, LOST_FOLDER, partsOfFolder } from "./folder-table.ts";

/** Answers by number, each found out once: many finds share a folder and a camera. */
function askedOnce(has: (number: number) => boolean): (number: number) => boolean {
  const known: (boolean | undefined)[] = [];
  return (number) => (known[number] ??= has(number));
}

/**
 * The words that finds can be found by: path, name and camera. None of these is kept a second time: a path is its folder, which many finds share, and
 * nearly always the find's own name.
 */
export class FindWords {
  readonly #columns: FindColumns;
  readonly #folders: FolderTable;
  readonly #cameras: Names<string | null>;
  /** In small letters, by row. */
  readonly #names: readonly string[];
  /** Last parts of paths that are not the find's name, by row. */
  readonly #others = new Map<number, string>();
  /** Paths of folders in small letters, by number; of as many as were looked at. */
  readonly #paths: string[] = [];

  constructor(columns: FindColumns, folders: FolderTable, cameras: Names<string | null>, names: readonly string[]) {
    this.#columns = columns;
    this.#folders = folders;
    this.#cameras = cameras;
    this.#names = names;
  }

  /** A find came, whose folder, camera and name are known already. */
  put(row: number, { path }: Pick<Find, "path">): void {
    const last = path === null ? "" : path.slice(path.lastIndexOf("/") + 1).toLowerCase();
    if (last === "" || last === this.#names[row]) this.#others.delete(row);
    else this.#others.set(row, last);
  }

  /** Which rows hold a word, which is in small letters and has no spaces. */
  holding(word: string): (row: number) => boolean {
    const names = this.#names;
    const { folder, camera } = this.#columns;
    const isInFolder = askedOnce((number) => this.#pathOf(number).includes(word));
    const isInCamera = askedOnce((number) => this.#cameras.at(number)?.toLowerCase().includes(word) ?? false);
    const isInName = (row: number): boolean => names[row] !== NAMELESS && names[row].includes(word);
    const isInOther = (row: number): boolean => this.#others.get(row)?.includes(word) ?? false;
    const plain = (row: number): boolean => isInName(row) || isInFolder(folder[row]) || isInCamera(camera[row]) || isInOther(row);
    if (!word.includes("/")) return plain;
    // A word that goes on over the end of a folder's name.
    const lastOf = (row: number): string => this.#others.get(row) ?? (names[row] === NAMELESS ? "" : names[row]);
    return (row) => plain(row) || (this.#pathOf(folder[row]) + (this.#pathOf(folder[row]) === "" ? "" : lastOf(row))).includes(word);
  }

  /** The path of a folder with a slash at its end; empty where it is lost. */
  #pathOf(number: number): string {
    for (let next = this.#paths.length; next <= number; next++) {
      const { path } = partsOfFolder(this.#folders.keyOf(next));
      this.#paths.push(path === LOST_FOLDER ? "" : path.toLowerCase());
    }
    return this.#paths[number];
  }
}
