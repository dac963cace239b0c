import type { WrittenFile } from "../../../core/handover/write.ts";

/** Where the chosen finds go. */
export type Target =
  | { readonly kind: "folder"; readonly handle: FileSystemDirectoryHandle; readonly folder: string }
  | { readonly kind: "zip"; readonly folder: string };

export interface HandOverNews {
  readonly total: number;
  readonly written: number;
  /** The file that was just read back and compared. */
  readonly checked: Omit<WrittenFile, "item"> | null;
}

export type HandOverResult =
  | {
      readonly ok: true;
      readonly folder: string;
      readonly equal: number;
      readonly files: number;
      /** Files that arrived as they were read, though the medium did not give all of them. */
      readonly holes: number;
      /** What else went wrong, in plain words. */
      readonly notes: readonly string[];
      readonly summary: string;
      readonly archive: File | null;
    }
  | { readonly ok: false; readonly because: string };

/** A drawn picture, or why none is drawn; null where nothing can be said of it. */
export type PreviewAnswer = { readonly picture: Blob } | { readonly word: string } | null;
