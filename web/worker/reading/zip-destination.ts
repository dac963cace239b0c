import { BlobReader, type FileEntry, ZipReader } from "@zip.js/zip.js";
import { makeZip } from "client-zip";
import type { Destination } from "../../../core/handover/write.ts";

/** Name of the archive while it is built, in the browser's own private storage. */
const BUILDING = "hand-over.zip";

/** Bytes of a local file header, before name and extra field. */
const LOCAL_HEADER = 30;

interface Waiting {
  readonly name: string;
  readonly input: AsyncIterable<Uint8Array>;
  readonly done: () => void;
  readonly failed: (cause: unknown) => void;
}

/**
 * One ZIP archive, for browsers that cannot write into a folder. It is built in private storage, and read back from
 * there entry by entry before it is handed on as a download.
 */
export class ZipDestination implements Destination {
  readonly folder: string;
  readonly #queue: Waiting[] = [];
  #wake: (() => void) | null = null;
  #closed = false;
  /** The archive could not be written on: nothing goes into it any more. */
  #broken: { readonly cause: unknown } | null = null;
  /** The file that the archive is taking in. */
  #passing: Waiting | null = null;
  readonly #written: Promise<void>;
  readonly #home: FileSystemDirectoryHandle;
  #entries: Map<string, FileEntry> | null = null;

  private constructor(home: FileSystemDirectoryHandle, stream: FileSystemWritableFileStream, folder: string) {
    this.#home = home;
    this.folder = folder;
    this.#written = makeZip(this.#files() as never).pipeTo(stream);
    this.#written.catch((cause) => {
      this.#broken = { cause };
      for (const waiting of this.#queue.splice(0)) waiting.failed(cause);
      this.#passing?.failed(cause);
      // Half an archive is of no use to anybody, and takes the room that is lacking.
      void home.removeEntry(BUILDING).catch(() => undefined);
    });
  }

  static async make(folder: string): Promise<ZipDestination> {
    const home = await navigator.storage.getDirectory();
    const handle = await home.getFileHandle(BUILDING, { create: true });
    return new ZipDestination(home, await handle.createWritable(), folder);
  }

  /** What the archive writer pulls: one file after the other, until the archive is closed. */
  async *#files(): AsyncGenerator<{ name: string; input: AsyncIterable<Uint8Array>; lastModified: Date }> {
    for (;;) {
      const next = this.#queue.shift();
      if (next) {
        this.#passing = next;
        yield { name: next.name, input: settling(next), lastModified: new Date() };
        continue;
      }
      if (this.#closed) return;
      await new Promise<void>((resolve) => {
        this.#wake = resolve;
      });
    }
  }

  write(path: string, pieces: AsyncIterable<Uint8Array>): Promise<void> {
    return new Promise((done, failed) => {
      if (this.#broken) return failed(this.#broken.cause);
      this.#queue.push({ name: `${this.folder}/${path}`, input: pieces, done, failed });
      this.#wake?.();
    });
  }

  /** The finished archive. */
  archive: File | null = null;

  /** Ends the archive. After this it can be read back. */
  async finish(): Promise<void> {
    this.#closed = true;
    this.#wake?.();
    await this.#written;
    const file = await (await this.#home.getFileHandle(BUILDING)).getFile();
    const entries = await new ZipReader(new BlobReader(file)).getEntries();
    this.#entries = new Map(entries.filter((entry): entry is FileEntry => !entry.directory).map((entry) => [entry.filename, entry]));
    this.archive = file;
  }

  /** A file as it stands in the archive: files are stored in it as they are (APPNOTE 6.3.10 §4.3.7: what a local header takes up). */
  async fileOf(path: string): Promise<Blob> {
    const entry = this.#entries?.get(`${this.folder}/${path}`);
    if (!entry || !this.archive || entry.compressionMethod !== 0) throw new Error("it is not in the archive");
    const head = new DataView(await this.archive.slice(entry.offset, entry.offset + LOCAL_HEADER).arrayBuffer());
    const start = entry.offset + LOCAL_HEADER + head.getUint16(26, true) + head.getUint16(28, true);
    return this.archive.slice(start, start + entry.uncompressedSize);
  }

  async *readBack(path: string): AsyncGenerator<Uint8Array> {
    const entry = this.#entries?.get(`${this.folder}/${path}`);
    if (!entry) throw new Error("it is not in the archive");
    const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>();
    const reading = entry.getData(writable, { useWebWorkers: false });
    yield* readable;
    await reading;
  }
}

/** Passes pieces on and settles the writer's promise when the last one was taken. */
async function* settling({ input, done, failed }: Waiting): AsyncGenerator<Uint8Array> {
  try {
    yield* input;
    done();
  } catch (cause) {
    failed(cause);
    throw cause;
  }
}
