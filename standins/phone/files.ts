import { extentsSource } from "../../core/bytes/extents.ts";
import { patientSource } from "../../core/bytes/patient-source.ts";
import type { ByteSource } from "../../core/bytes/source.ts";
import { openVolumes } from "../../core/filesystems/open-volumes.ts";

/** A file or folder of a practice phone. Sizes in bytes, times in seconds since 1970. */
export interface PhoneFile {
  readonly name: string;
  readonly mode: number;
  readonly size: number;
  readonly modified: number;
  /** Absent: it is a folder. */
  readonly read?: (offset: number, length: number) => Promise<Uint8Array>;
}

const FOLDER = 0o040_755;
const FILE = 0o100_644;
const BLOCK_DEVICE = 0o060_600;

/** The files of a phone as one tree. There is nothing in it that writes. */
export class PhoneFiles {
  readonly #files = new Map<string, PhoneFile>();
  readonly #inside = new Map<string, Set<string>>();

  constructor() {
    this.#files.set("/", { name: "/", mode: FOLDER, size: 4096, modified: 0 });
  }

  #put(path: string, file: Omit<PhoneFile, "name">): void {
    const parts = path.split("/").filter(Boolean);
    let folder = "/";
    for (const part of parts.slice(0, -1)) {
      const next = `${folder === "/" ? "" : folder}/${part}`;
      if (!this.#files.has(next)) this.#enter(folder, next, { name: part, mode: FOLDER, size: 4096, modified: file.modified });
      folder = next;
    }
    this.#enter(folder, path, { ...file, name: parts[parts.length - 1] });
  }

  #enter(folder: string, path: string, file: PhoneFile): void {
    this.#files.set(path, file);
    const names = this.#inside.get(folder) ?? new Set();
    this.#inside.set(folder, names.add(path));
  }

  addFile(path: string, content: ByteSource, modified: number): void {
    this.#put(path, { mode: FILE, size: content.size, modified, read: (offset, length) => content.read(offset, length) });
  }

  /** A raw partition: its size is what reading it gives, and `stat` tells of none, as with real ones. */
  addPartition(path: string, content: ByteSource): void {
    this.#put(path, { mode: BLOCK_DEVICE, size: content.size, modified: 0, read: (offset, length) => content.read(offset, length) });
  }

  /** Everything that is present on a volume of an image under `from`, shown under a folder. */
  async addVolume(folder: string, image: ByteSource, from = ""): Promise<void> {
    const source = patientSource(image);
    const { volumes } = await openVolumes(source);
    for (const volume of volumes)
      for await (const { files } of volume.list())
        for (const file of files) {
          if (file.erased || !file.path?.startsWith(`${from}/`)) continue;
          const content = extentsSource(source, file.placements[0].extents, file.name ?? undefined);
          this.addFile(folder + file.path.slice(from.length), content, Math.floor((file.modified ?? 0) / 1000));
        }
  }

  find(path: string): PhoneFile | null {
    return this.#files.get(path.replace(/\/+$/, "") || "/") ?? null;
  }

  list(path: string): PhoneFile[] {
    const names = this.#inside.get(path.replace(/\/+$/, "") || "/") ?? [];
    return [...names].flatMap((one) => this.#files.get(one) ?? []);
  }

  /** All files below a folder, in the order of their paths. */
  under(folder: string): (PhoneFile & { readonly path: string })[] {
    return [...this.#files]
      .filter(([path, { read }]) => read && path.startsWith(`${folder}/`))
      .map(([path, file]) => ({ ...file, path }))
      .sort((a, b) => (a.path < b.path ? -1 : 1));
  }
}
