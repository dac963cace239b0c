import { readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import { z } from "zod";

/**
 * Images of a card and of phones' storage, written by the Linux kernel's own drivers, with an exact account of what was on
 * them: most contents were made zeros so that they pack small, all structures are as the drivers left them.
 */
export const DISK_IMAGES = ["sd-formatted", "sd-exfat", "userdata-ext4", "userdata-ext4-unclean", "userdata-f2fs"] as const;
export type DiskImage = (typeof DISK_IMAGES)[number];

const Truth = z.object({
  image: z.object({ bytes: z.number(), sha256: z.string(), filesystem: z.string(), start: z.number(), length: z.number() }),
  files: z.array(
    z.object({
      path: z.string(),
      state: z.enum(["present", "binned", "erased"]),
      size: z.number(),
      sha256: z.string(),
      modified: z.string(),
      /** intact: all its bytes are still there. partial: those of `intactRanges` are, as [offset in the file, length]. */
      survives: z.enum(["intact", "partial"]),
      /** A record that leads to all its places is still there. */
      recorded: z.boolean(),
      /** Its name still stands somewhere. */
      nameSurvives: z.boolean(),
      intactRanges: z.array(z.tuple([z.number(), z.number()])).optional(),
      pieces: z.number(),
    }),
  ),
});
export type DiskTruth = z.infer<typeof Truth>;

export const diskTruth = (name: DiskImage): DiskTruth => Truth.parse(JSON.parse(readFileSync(`test/images/${name}.truth.json`, "utf8")));
export const diskBytes = (name: DiskImage): Uint8Array => {
  const unpacked = gunzipSync(readFileSync(`test/images/${name}.img.gz`));
  return new Uint8Array(unpacked.buffer, unpacked.byteOffset, unpacked.length);
};
