import type { Offered } from "../session/offered.ts";

/** Chromium's pickers give handles that can be opened again after a reload. */
interface Pickers {
  showOpenFilePicker?(options: { multiple: boolean }): Promise<FileSystemFileHandle[]>;
  showDirectoryPicker?(): Promise<FileSystemDirectoryHandle>;
}

/** Asks for a file, or for several that are one medium. Null: nothing was chosen. "no picker": the page's own field must ask. */
export async function pickFile(): Promise<Offered[] | null | "no picker"> {
  const { showOpenFilePicker } = window as Pickers;
  if (!showOpenFilePicker) return "no picker";
  // Closing the picker without a choice is no error.
  const handles = await showOpenFilePicker.call(window, { multiple: true }).catch(() => []);
  const picked = handles.map(async (handle): Promise<Offered> => ({ grant: { kind: "file", file: await handle.getFile() }, handle }));
  return handles.length > 0 ? Promise.all(picked) : null;
}

/** Asks for a folder, likewise. */
export async function pickFolder(): Promise<Offered | null | "no picker"> {
  const { showDirectoryPicker } = window as Pickers;
  if (!showDirectoryPicker) return "no picker";
  const handle = await showDirectoryPicker.call(window).catch(() => null);
  return handle ? { grant: { kind: "folder", handle }, handle } : null;
}

/** Files that a folder field gave, as something on the bench. */
export const offeredFolder = (files: File[]): Offered => ({
  grant: { kind: "files", name: files[0].webkitRelativePath.split("/")[0] || "folder", files },
});
