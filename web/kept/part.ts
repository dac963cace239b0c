import { z } from "zod";
import { Bytes } from "../../core/bytes/bytes-schema.ts";
import { PhoneIdentity } from "../../core/phones/identity.ts";
import { WORK_STATES } from "../../core/work/work-state.ts";
import { type Lacks, Stretch } from "./stretch.ts";

/** A file as it stands in the archive that a working copy of shared storage is; `text` where it was made here. */
const Member = z.object({ path: z.string(), size: z.number().int().nonnegative(), modified: z.number(), text: z.string().optional() });
export type Member = z.infer<typeof Member>;

/** Which part of a phone a medium is, and how far its working copy got. Kept apart from the medium: the list may be long. */
export const KeptPart = z.object({
  medium: z.number(),
  job: z.number(),
  serial: z.string(),
  /** What else the phone is known by; null in records of before this was asked. */
  phone: PhoneIdentity.nullable(),
  part: z.discriminatedUnion("kind", [
    z.object({ kind: z.literal("people") }),
    z.object({ kind: z.literal("shared") }),
    z.object({ kind: z.literal("partition"), name: z.string(), path: z.string() }),
  ]),
  name: z.string(),
  size: z.number().int().nonnegative(),
  /** Shared storage only: the layout of its archive. */
  members: z.array(Member),
  /** Where the copy is written. Null: it is not copied yet, or read directly. `file`: its name in the browser's own storage. */
  place: z
    .discriminatedUnion("kind", [
      z.object({ kind: z.literal("browser"), file: z.string() }),
      z.object({ kind: z.literal("file"), handle: z.custom<FileSystemFileHandle>() }),
    ])
    .nullable(),
  status: z.enum(WORK_STATES),
  mark: z.object({
    done: z.number(),
    hash: Bytes.nullable(),
    unreadable: z.array(Stretch),
  }),
  /** SHA-256 of the whole copy, when it is done. */
  sha256: z.string().nullable(),
  because: z.string().nullable(),
});
export type KeptPart = z.infer<typeof KeptPart>;

/** What a copy lacks: places that did not read, and, where it broke off, all behind its mark. Null: nothing. */
export function lacksOf({ mark, size }: Pick<KeptPart, "mark" | "size">): Lacks | null {
  const rest = mark.done < size ? [{ offset: mark.done, length: size - mark.done }] : [];
  const holes = [...mark.unreadable, ...rest];
  return holes.length > 0 ? { holes, size } : null;
}

/** The name of a medium's working copy in the browser's own storage. */
export const copyFileName = (medium: number): string => `working-copy-of-medium-${medium}.bin`;
