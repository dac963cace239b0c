import type { RefObject } from "react";

/** A file field that is not seen: a button clicks it. The same file can be chosen twice. */
export function FileField({
  field,
  label,
  accept,
  onFile,
}: {
  field: RefObject<HTMLInputElement | null>;
  label: string;
  accept?: string;
  onFile: (file: File) => void;
}) {
  return (
    <input
      ref={field}
      type="file"
      accept={accept}
      className="sr-only"
      tabIndex={-1}
      aria-label={label}
      onChange={(event) => {
        const [file] = event.target.files ?? [];
        if (file) onFile(file);
        event.target.value = "";
      }}
    />
  );
}
