import type { MediaValues } from "../finds/record.ts";
import { isoOf } from "./gathered.ts";
import { type Entry, entryOf, onceEach, type Store } from "./store.ts";

/** MediaStore.Files: FORMAT of a folder (MTP, format code 0x3001 "association"). */
const FOLDER = 0x3001;

/** The media index (Android Open Source Project, MediaStore.Files: IS_TRASHED, DATE_EXPIRES in seconds; DATE_TAKEN in milliseconds). */
export const MEDIA_LIST: Store = {
  name: "media",
  read(gathered) {
    const files = gathered.table("files", "_data", "_display_name", "date_modified");
    if (!files) return [];
    const entries = files.rows.flatMap((row): Entry[] => {
      const path = files.text(row, "_data");
      const name = files.text(row, "_display_name");
      if ((!path && !name) || files.number(row, "format") === FOLDER) return [];
      const seconds = (column: string) => {
        const time = files.number(row, column);
        return time ? isoOf(time * 1000) : undefined;
      };
      const isBinned = row.isThere && files.number(row, "is_trashed") === 1;
      const values: MediaValues = {
        name,
        path,
        type: files.text(row, "mime_type") || undefined,
        size: files.number(row, "_size"),
        taken: isoOf(files.number(row, "datetaken") || undefined),
        modified: seconds("date_modified"),
        ...(isBinned && { until: seconds("date_expires")?.slice(0, 10) }),
      };
      return [entryOf(MEDIA_LIST.name, "media", gathered, [row], values, isBinned ? "binned" : undefined)];
    });
    return onceEach(entries, ({ values }) => {
      const { path, modified } = values as MediaValues;
      return path ? `${path} ${modified}` : null;
    });
  },
};
