import type { FileType, Kind } from "./file-type.ts";
import { jpeg } from "./jpeg/jpeg.ts";
import { png } from "./png/png.ts";

/** Every format whose structure is walked. Adding one is adding its file and its line here. */
export const FILE_TYPES: readonly FileType[] = [jpeg, png];

/** Bytes that are enough to tell what begins at a place. */
export const HEAD_BYTES = Math.max(...FILE_TYPES.map((type) => type.beginsBytes));

/** The format that begins at `at`, or null. */
export const typeAt = (bytes: Uint8Array, at: number): FileType | null =>
  FILE_TYPES.find((type) => at + type.beginsBytes <= bytes.length && type.begins(bytes, at)) ?? null;

/** Endings of names by kind, for files whose content is not checked yet: [ending, format]. */
const ENDINGS: Record<Kind, readonly (readonly [string, string])[]> = {
  photo: [
    ["jpg", "jpeg"],
    ["jpeg", "jpeg"],
    ["jpe", "jpeg"],
    ["png", "png"],
    ["gif", "gif"],
    ["webp", "webp"],
    ["heic", "heic"],
    ["heif", "heic"],
    ["bmp", "bmp"],
    ["tif", "tiff"],
    ["tiff", "tiff"],
    ["dng", "dng"],
    ["avif", "avif"],
  ],
  video: [
    ["mp4", "mp4"],
    ["m4v", "mp4"],
    ["mov", "mov"],
    ["3gp", "3gp"],
    ["mkv", "mkv"],
    ["webm", "webm"],
    ["avi", "avi"],
    ["mts", "ts"],
    ["ts", "ts"],
  ],
  audio: [
    ["mp3", "mp3"],
    ["m4a", "m4a"],
    ["aac", "aac"],
    ["ogg", "ogg"],
    ["opus", "opus"],
    ["flac", "flac"],
    ["wav", "wav"],
    ["amr", "amr"],
    ["mid", "midi"],
  ],
  document: [
    ["pdf", "pdf"],
    ["txt", "txt"],
    ["csv", "csv"],
    ["json", "json"],
    ["xml", "xml"],
    ["html", "html"],
    ["htm", "html"],
    ["docx", "docx"],
    ["xlsx", "xlsx"],
    ["pptx", "pptx"],
    ["odt", "odt"],
    ["ods", "ods"],
    ["rtf", "rtf"],
    ["vcf", "vcf"],
    ["ics", "ics"],
    ["doc", "doc"],
    ["xls", "xls"],
    ["ppt", "ppt"],
    ["md", "txt"],
    ["log", "txt"],
  ],
  archive: [
    ["zip", "zip"],
    ["rar", "rar"],
    ["7z", "7z"],
    ["tar", "tar"],
    ["gz", "gz"],
    ["ab", "ab"],
  ],
  database: [
    ["db", "sqlite"],
    ["sqlite", "sqlite"],
    ["sqlite3", "sqlite"],
    ["db-wal", "sqlite-wal"],
    ["db-journal", "sqlite-journal"],
  ],
  app: [["apk", "apk"]],
  other: [],
};

const BY_ENDING = new Map(
  Object.entries(ENDINGS).flatMap(([kind, endings]) =>
    endings.map(([ending, format]) => [ending, { kind: kind as Kind, format }] as const),
  ),
);

/** What a name promises: kind and format. A name without a known ending is "other". */
export function promisedBy(name: string): { kind: Kind; format: string } {
  const ending = name.slice(name.lastIndexOf(".") + 1).toLowerCase();
  return (
    (name.includes(".") ? BY_ENDING.get(ending) : undefined) ?? {
      kind: "other",
      format: name.includes(".") && /^[a-z0-9]{1,5}$/.test(ending) ? ending : "unknown",
    }
  );
}
