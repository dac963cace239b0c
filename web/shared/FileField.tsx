import type { RefObject } from "react";

declare module "react" {
  interface InputHTMLAttributes<T> {
    /** Not in the standard, but in every browser: choose a folder. */
    webkitdirectory?: T extends HTMLInputElement ? string : never;
  }
}

/** A file field that is not seen: a button clicks it. The same file can be chosen twice. */
export function FileField({
  field,
  label,
  accept,
  onFile,
  onFiles,
  onFolder,
}: {
  field: RefObject<HTMLInputElement | null>;
  label: string;
  accept?: string;
} & (
  | { onFile: (file: File) => void; onFiles?: undefined; onFolder?: undefined }
  /** Several may be chosen at once. */
  | { onFiles: (files: File[]) => void; onFile?: undefined; onFolder?: undefined }
  /** A whole folder is chosen, and all its files are given. */
  | { onFolder: (files: File[]) => void; onFile?: undefined; onFiles?: undefined }
)) {
  return (
    <input
      ref={field}
      type="file"
      accept={accept}
      multiple={onFiles !== undefined}
      className="sr-only"
      tabIndex={-1}
      aria-label={label}
      webkitdirectory={onFolder ? "" : undefined}
      onChange={(event) => {
        const files = [...(event.target.files ?? [])];
        if (files.length > 0) {
          const many = onFolder ?? onFiles;
          if (many) many(files);
          else onFile?.(files[0]);
        }
        event.target.value = "";
      }}
    />
  );
}
