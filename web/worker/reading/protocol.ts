import type { Extent } from "../../../core/bytes/extents.ts";
import type { Forms } from "../../../core/handover/people/plan.ts";
import type { Folders } from "../../../core/handover/plan.ts";
import type { WrittenFile } from "../../../core/handover/write.ts";
import type { DrawnPage } from "../looking/decode-desk.ts";
import type { InnerPictures } from "../looking/inner-pictures.ts";

/** Where the chosen finds go. */
export type Target = { readonly folder: string; readonly folders: Folders; readonly forms: Forms } & (
  | { readonly kind: "folder"; readonly handle: FileSystemDirectoryHandle }
  | { readonly kind: "zip" }
);

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

/** A drawn picture, a text's first lines, or why nothing is shown; null where nothing can be said of it. */
export type PreviewAnswer = { readonly picture: Blob } | { readonly lines: readonly string[] } | { readonly word: string } | null;

/** The beginning of a text, and whether it goes on. */
export type TextAnswer = { readonly text: string; readonly goesOn: boolean } | { readonly word: string };

/** The pictures that stand in a document. */
export type InnerAnswer = InnerPictures | { readonly word: string };

/** Numbers of the pages on which what was searched for stands. */
export type PagesAnswer = { readonly pages: readonly number[] } | { readonly word: string };

/** All bytes of something small, in memory that nobody else has. */
export type BytesAnswer = { readonly bytes: Uint8Array<ArrayBuffer> } | { readonly word: string };

/** A page of the web as markup that only lays its text out. */
export type MarkupAnswer = { readonly markup: string } | { readonly word: string };

/** A page of a document, and how many it has. */
export type PageAnswer = DrawnPage | { readonly word: string };

/** A content for an element of the page that reads it itself: an image, a film, a sound; and where in it zeros stand for what is lost. */
export type ContentAnswer =
  | ({ readonly lost: readonly Extent[] } & ({ readonly content: Blob } | { readonly address: string }))
  | { readonly word: string };

/** A file in an archive, a stream in a document. `key`: what it goes by where it is a find of its own; null: it never is. */
export interface ListedEntry {
  readonly path: string;
  readonly size: number;
  /** Milliseconds since 1970. */
  readonly modified: number | null;
  readonly key: string | null;
}

/** What something holds: not all of it where it goes on; and what went wrong on the way, in plain words. */
export type EntriesAnswer =
  | { readonly entries: readonly ListedEntry[]; readonly goesOn: boolean; readonly troubles: readonly string[] }
  | { readonly word: string };
