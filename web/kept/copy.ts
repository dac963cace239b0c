import { z } from "zod";
import { PhoneIdentity } from "../../core/phones/identity.ts";
import { type Lacks, Stretch } from "./job.ts";

/** A file as it stands in the archive that a working copy of shared storage is; `text` where it was made here. */
const Member = z.object({ path: z.string(), size: z.number().int().nonnegative(), modified: z.number(), text: z.string().optional() });
export type Member = z.infer<typeof Member>;

/** What of a phone a job reads, and how far its working copy got. Kept apart from the job: the list may be long. */
export const CopyRecord = z.object({
  /** The job's id. */
  job: z.number(),
  serial: z.string(),
  /** What else the phone is known by; null in records of before this was asked. */
  phone: PhoneIdentity.nullable().default(null),
  part: z.discriminatedUnion("kind", [
    z.object({ kind: z.literal("shared") }),
    z.object({ kind: z.literal("partition"), name: z.string(), path: z.string() }),
  ]),
  name: z.string(),
  size: z.number().int().nonnegative(),
  /** Shared storage only: the layout of its archive. */
  members: z.array(Member),
  /** Null: it is read directly, without a copy. */
  place: z
    .discriminatedUnion("kind", [
      z.object({ kind: z.literal("browser") }),
      z.object({ kind: z.literal("file"), handle: z.custom<FileSystemFileHandle>() }),
    ])
    .nullable(),
  status: z.enum(["found", "running", "stopped", "failed", "done"]),
  mark: z.object({ done: z.number(), hash: z.instanceof(Uint8Array).nullable(), unreadable: z.array(Stretch) }),
  /** SHA-256 of the whole copy, when it is done. */
  sha256: z.string().nullable(),
  because: z.string().nullable(),
});
export type CopyRecord = z.infer<typeof CopyRecord>;

/** What a copy lacks: places that did not read, and, where it broke off, all behind its mark. Null: nothing. */
export function lacksOf({ mark, size }: CopyRecord): Lacks | null {
  const rest = mark.done < size ? [{ offset: mark.done, length: size - mark.done }] : [];
  const holes = [...mark.unreadable, ...rest];
  return holes.length > 0 ? { holes, size } : null;
}

/** The name of a job's working copy in the browser's own storage. */
export const copyFileName = (job: number): string => `working-copy-${job}.bin`;
