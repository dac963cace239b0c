import type { Destination } from "../../../core/handover/write.ts";

/** A folder the person chose (W3C File System Access). Files go into a new sub-folder, so nothing can be written over. */
export class FolderDestination implements Destination {
  readonly #root: FileSystemDirectoryHandle;
  readonly folder: string;

  private constructor(root: FileSystemDirectoryHandle, folder: string) {
    this.#root = root;
    this.folder = folder;
  }

  /** Makes `folder` under the chosen one, numbered where it exists already. */
  static async make(chosen: FileSystemDirectoryHandle, folder: string): Promise<FolderDestination> {
    const taken = new Set<string>();
    for await (const name of chosen.keys()) taken.add(name.toLowerCase());
    let name = folder;
    for (let number = 2; taken.has(name.toLowerCase()); number++) name = `${folder} (${number})`;
    return new FolderDestination(await chosen.getDirectoryHandle(name, { create: true }), name);
  }

  async #folderOf(path: string, create: boolean): Promise<{ folder: FileSystemDirectoryHandle; name: string }> {
    const parts = path.split("/");
    let folder = this.#root;
    for (const part of parts.slice(0, -1)) folder = await folder.getDirectoryHandle(part, { create });
    return { folder, name: parts[parts.length - 1] };
  }

  async write(path: string, pieces: AsyncIterable<Uint8Array>): Promise<void> {
    const { folder, name } = await this.#folderOf(path, true);
    const file = await folder.getFileHandle(name, { create: true });
    try {
      const stream = await file.createWritable();
      try {
        for await (const piece of pieces) await stream.write(piece as BufferSource);
      } catch (cause) {
        await stream.abort().catch(() => undefined);
        throw cause;
      }
      await stream.close();
    } catch (cause) {
      // Its name was taken when it was begun, and would stand there empty. The folder is a new one: nothing of anybody's goes.
      await folder.removeEntry(name).catch(() => undefined);
      throw cause;
    }
  }

  /** Every file is closed when it is written: nothing is left to do. */
  async finish(): Promise<void> {}

  /** A file as it stands there now. */
  async fileOf(path: string): Promise<File> {
    const { folder, name } = await this.#folderOf(path, false);
    return (await folder.getFileHandle(name)).getFile();
  }

  async *readBack(path: string): AsyncGenerator<Uint8Array> {
    yield* (await this.fileOf(path)).stream();
  }
}
