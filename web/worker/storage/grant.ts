import type { Lacks } from "../../kept/stretch.ts";

/** What screens and workers say to each other. Errors cross as data: a class would not survive the way. */

/** The storage itself, as the screen was allowed to open it. */
export type Grant =
  | { readonly kind: "file"; readonly file: File; readonly passphrase?: string; readonly lacks?: Lacks }
  /** Several files that are one medium: the pieces of an image, or a database with its log and journal. */
  | { readonly kind: "together"; readonly name: string; readonly files: readonly File[] }
  /** A folder that the browser keeps a handle of. */
  | { readonly kind: "folder"; readonly handle: FileSystemDirectoryHandle }
  /** A folder's files, where the browser gives no handle: their paths are relative to it. */
  | { readonly kind: "files"; readonly name: string; readonly files: readonly File[] }
  | { readonly kind: "url"; readonly url: string; readonly name: string; readonly size: number }
  /** An archive that a backup was unpacked to. */
  | { readonly kind: "unpacked"; readonly archive: string; readonly name: string }
  /** A phone, held by another worker. */
  | { readonly kind: "port"; readonly port: MessagePort; readonly name: string; readonly size: number };

/** `passphrase`: it is an encrypted backup, and its owner's passphrase is what is lacking. */
export type Outcome = { readonly ok: true } | { readonly ok: false; readonly because: string; readonly passphrase?: boolean };
