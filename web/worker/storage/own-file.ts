/** A file of the browser's own storage that is written in place (WHATWG File System, FileSystemSyncAccessHandle): only workers have it, and the types of pages do not tell of it. */
export interface OwnFile {
  truncate(size: number): void;
  /** @returns bytes that were read, or taken: fewer than were given where there is no room */
  read(bytes: Uint8Array, options: { at: number }): number;
  write(bytes: Uint8Array, options: { at: number }): number;
  flush(): void;
  close(): void;
}

/** Opens a file in a folder of the browser's own storage; it is made where it is not there. */
export async function openOwnFile(folder: FileSystemDirectoryHandle, name: string): Promise<OwnFile> {
  const handle = (await folder.getFileHandle(name, { create: true })) as FileSystemFileHandle & {
    createSyncAccessHandle(): Promise<OwnFile>;
  };
  return handle.createSyncAccessHandle();
}
