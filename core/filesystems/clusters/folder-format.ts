/** One file or folder as its entry in a folder tells. */
export interface FolderEntry {
  /** Byte of its entry within the bytes that were parsed. */
  readonly at: number;
  readonly erased: boolean;
  readonly name: string;
  /** What is lost of its name, in plain words, one piece of evidence each. */
  readonly lost: readonly string[];
  readonly folder: boolean;
  readonly firstCluster: number;
  readonly size: number;
  /** Milliseconds since 1970. */
  readonly modified: number | null;
  readonly created: number | null;
  /** True: it lies in one run and has no chain. False: it has a chain. Null: its entry does not say. */
  readonly inOneRun: boolean | null;
}

/** How a family of file systems writes its folders. */
export interface FolderFormat {
  readonly entryBytes: number;
  /** What stands for bytes that cannot be read: neither an end mark nor an entry. */
  readonly filler: number;
  /** Do its folders begin with entries that say where they lie? */
  readonly hasDots: boolean;
  readEntries(bytes: Uint8Array): FolderEntry[];
  /** A folder that begins in this block: its own first cluster and its parent's (0: the root). Null: none, or it does not say. */
  readDots(block: Uint8Array): { self: number; parent: number } | null;
  /** Can this block be the first or a later part of a folder? */
  looksLikeFolderBlock(block: Uint8Array): boolean;
  /** Can this block be the beginning of a root folder, which says nothing of where it lies? */
  looksLikeRoot(block: Uint8Array): boolean;
  /** The cheap first look for it. */
  mayBeFolderBlock(bytes: Uint8Array, at: number): boolean;
  /** Is no entry of this block the end mark? Then the folder goes on in another cluster. */
  isFullBlock(block: Uint8Array): boolean;
}
