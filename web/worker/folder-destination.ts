import type { Destination } from "../../core/handover/write.ts";

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

  async #file(path: string, create: boolean): Promise<FileSystemFileHandle> {
    const parts = path.split("/");
    let folder = this.#root;
    for (const part of parts.slice(0, -1)) folder = await folder.getDirectoryHandle(part, { create });
    return folder.getFileHandle(parts[parts.length - 1], { create });
  }

  async write(path: string, pieces: AsyncIterable<Uint8Array>): Promise<void> {
    const stream = await (await this.#file(path, true)).createWritable();
    try {
      for await (const piece of pieces) await stream.write(piece as BufferSource);
    } catch (cause) {
      await stream.abort();
      throw cause;
    }
    await stream.close();
  }

  /** Every file is closed when it is written: nothing is left to do. */
  async finish(): Promise<void> {}

  async *readBack(path: string): AsyncGenerator<Uint8Array> {
    const file = await (await this.#file(path, false)).getFile();
    yield* file.stream();
  }
}
