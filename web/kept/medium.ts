import { z } from "zod";
import { PhoneIdentity } from "../../core/phones/identity.ts";
import { KeptScan, newScan } from "./kept-scan.ts";
import { Lacks } from "./stretch.ts";

/** What a medium is, as a technician calls it. */
export const MEDIUM_KINDS = ["image", "folder", "card", "copy", "partition", "people", "shared storage", "backup", "export"] as const;
export type MediumKind = (typeof MEDIUM_KINDS)[number];

/** SHA-256 of a few places; null: a place that did not read. In tickets of before, one hash over all of them. */
export const Sample = z.union([z.string(), z.array(z.string().nullable())]);
export type Sample = z.infer<typeof Sample>;

/** Where the storage is opened again, and enough to know it again. */
export const SourceRef = z.object({
  /** folder: files of a mounted card or phone. copy: a working copy in the browser's own storage. phone: read directly off a phone. */
  kind: z.enum(["handle", "file", "folder", "url", "copy", "phone"]),
  name: z.string(),
  size: z.number().int().nonnegative(),
  sample: Sample,
  handle: z.custom<FileSystemFileHandle | FileSystemDirectoryHandle>().optional(),
  url: z.string().optional(),
  /** A backup that was unpacked into the browser's own storage: the archive's name there. */
  unpacked: z.string().optional(),
  /** A copy in a file: in which places nothing was read. */
  lacks: Lacks.optional(),
});
export type SourceRef = z.infer<typeof SourceRef>;

/** One medium of a ticket: a phone's storage, its card, an old backup. */
export const Medium = z.object({
  id: z.number(),
  /** The ticket that it belongs to. */
  job: z.number(),
  kind: z.enum(MEDIUM_KINDS),
  name: z.string(),
  /** Null: a part of a phone that was found, and is not copied or read yet. */
  source: SourceRef.nullable(),
  /** The phone that it was taken from, and which part of it. */
  phone: PhoneIdentity.nullable(),
  part: z.string().nullable(),
  /** SHA-256 of all of it, once it was read from end to end. */
  sha256: z.string().nullable(),
  /** Put aside: its finds are not shown, and it is not worked on. */
  aside: z.boolean(),
  /** Grows with each tab that takes its scan over: only the last one may keep anything. */
  owner: z.number().int().nonnegative(),
  scan: KeptScan,
  addedAt: z.number(),
});
export type Medium = z.infer<typeof Medium>;

export const newMedium = (
  job: number,
  own: Pick<Medium, "kind" | "name" | "source"> & Partial<Pick<Medium, "phone" | "part" | "sha256">>,
  now = Date.now(),
): Omit<Medium, "id"> => ({
  job,
  phone: null,
  part: null,
  sha256: null,
  aside: false,
  owner: 0,
  scan: newScan(),
  addedAt: now,
  ...own,
});
