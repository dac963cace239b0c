import exifr from "exifr";
import { z } from "zod";
import type { ByteSource } from "../bytes/source.ts";
import type { Description } from "./file-type.ts";

/** Camera data stands near the beginning: an APP1 segment is at most 64 KiB, and comes first. */
const HEAD = 160 * 1024;
const EXIF_TAG = Uint8Array.of(0x45, 0x78, 0x69, 0x66, 0, 0);

/** Hostile values cost their own block, never the rest. */
const block = <T extends z.ZodRawShape>(shape: T) =>
  z
    .object(shape)
    .partial()
    .catch({} as never)
    .default({} as never);

/** What exifr may answer, by block; anything else in there is dropped. */
const Answer = z.object({
  ifd0: block({ Make: z.string().max(200), Model: z.string().max(200) }),
  exif: block({ DateTimeOriginal: z.string(), CreateDate: z.string(), ExifImageWidth: z.number().int().positive() }),
  gps: block({ latitude: z.number().min(-90).max(90), longitude: z.number().min(-180).max(180) }),
  ifd1: block({ ThumbnailOffset: z.number().int().nonnegative(), ThumbnailLength: z.number().int().positive() }),
});

/** EXIF 2.32 §4.6.5: "YYYY:MM:DD HH:MM:SS", the camera's own clock. */
function cameraTime(text: string | undefined): number | null {
  const parts = /^(\d{4}):(\d\d):(\d\d) (\d\d):(\d\d):(\d\d)/.exec(text ?? "");
  if (!parts) return null;
  const [year, month, day, hour, minute, second] = parts.slice(1).map(Number);
  const time = Date.UTC(year, month - 1, day, hour, minute, second);
  return month >= 1 && month <= 12 && new Date(time).getUTCDate() === day ? time : null;
}

const NOTHING: Description = { taken: null, camera: null, place: null, originalWidth: null, thumbnail: null };

/** Reads the EXIF data of a picture (EXIF 2.32) through exifr. Never throws over what it reads. */
export async function describeContent(content: ByteSource): Promise<Description> {
  const head = (await content.read(0, Math.min(HEAD, content.size))).slice();
  const parsed = await exifr
    .parse(head, { tiff: true, ifd1: true, exif: true, gps: true, reviveValues: false, mergeOutput: false, translateValues: false })
    .catch(() => null);
  const answer = Answer.safeParse(parsed);
  if (!answer.success) return NOTHING;
  const { ifd0, exif, gps, ifd1 } = answer.data;
  const tiffAt = tiffHeader(head);
  return {
    taken: cameraTime(exif.DateTimeOriginal) ?? cameraTime(exif.CreateDate),
    camera:
      [ifd0.Make, ifd0.Model]
        .map((part) => part?.replaceAll("\0", "").trim())
        .filter(Boolean)
        .join(" ") || null,
    place: gps.latitude !== undefined && gps.longitude !== undefined ? { latitude: gps.latitude, longitude: gps.longitude } : null,
    originalWidth: exif.ExifImageWidth ?? null,
    thumbnail:
      tiffAt !== null && ifd1.ThumbnailOffset !== undefined && ifd1.ThumbnailLength !== undefined
        ? { offset: tiffAt + ifd1.ThumbnailOffset, length: ifd1.ThumbnailLength }
        : null,
  };
}

/** Thumbnail offsets count from the TIFF header, which follows the segment's "Exif\0\0" (EXIF 2.32 §4.5.4). */
function tiffHeader(head: Uint8Array): number | null {
  for (let at = head.indexOf(EXIF_TAG[0]); at >= 0 && at < head.length - EXIF_TAG.length; at = head.indexOf(EXIF_TAG[0], at + 1))
    if (EXIF_TAG.every((byte, index) => head[at + index] === byte)) return at + EXIF_TAG.length;
  return null;
}
