import { type Adb, type AdbSync, type AdbSyncEntry, LinuxFileType } from "@yume-chan/adb";
import { type ByteSource, checkRange, UnreadableError, UnusableError } from "../../bytes/source.ts";
import { drained, PhoneFileSource } from "./phone-file-source.ts";
import { runOnPhone, whileConnected } from "./shell.ts";

/** A file of the shared storage. Size in bytes, time in milliseconds since 1970. */
export interface SharedFile {
  /** From the root of the shared storage, with a leading slash. */
  readonly path: string;
  readonly size: number;
  readonly modified: number;
}

const SHARED_ROOT = "/sdcard";
/** Bounds of a walk, files and folders alike: a phone with more is said to be cut. */
const MAX_ENTRIES = 500_000;
const MAX_DEPTH = 40;
/** Letters of the longest path that the sync protocol takes (AOSP, file_sync_protocol.h). */
const MAX_PATH = 1024;
/** Entries between two words of progress: a folder of a million names says that it goes on. */
const TELL_EVERY = 1000;

export interface SharedListing {
  readonly files: readonly SharedFile[];
  readonly bytes: number;
  /** Folders that could not be looked into, in plain words. */
  readonly troubles: readonly string[];
}

/**
 * Walks the shared storage by the sync protocol (AOSP, SYNC.TXT; version 2 where the phone has it). Symbolic links are
 * not followed. `progress` hears how many files are known so far, in the middle of large folders too.
 * @throws UnusableError when the phone went away, or `signal` aborts: half a list must not pass for a whole one
 */
export async function listShared(
  adb: Adb,
  progress: (files: number) => void,
  { root = SHARED_ROOT, signal }: { root?: string; signal?: AbortSignal } = {},
): Promise<SharedListing> {
  const sync = await whileConnected(adb, adb.sync());
  try {
    const files: SharedFile[] = [];
    const troubles: string[] = [];
    let bytes = 0;
    let entries = 0;
    const folders: { path: string; depth: number }[] = [{ path: "", depth: 0 }];
    for (let folder = folders.pop(); folder && entries < MAX_ENTRIES; folder = folders.pop()) {
      for await (const entry of entriesOf(adb, sync, root + folder.path, troubles, signal)) {
        if (entry.name === "." || entry.name === ".." || entry.name === "" || entry.name.includes("/")) continue;
        if (++entries % TELL_EVERY === 0) progress(files.length);
        if (entries > MAX_ENTRIES) break;
        const path = `${folder.path}/${entry.name}`;
        if (root.length + path.length > MAX_PATH) troubles.push(`${path.slice(0, 80)}… has a path that is too long to be asked for`);
        else if (entry.type === LinuxFileType.Directory) {
          if (folder.depth < MAX_DEPTH) folders.push({ path, depth: folder.depth + 1 });
          else troubles.push(`${path} lies too deep to be looked into`);
        } else if (entry.type === LinuxFileType.File) {
          const size = Number(entry.size);
          if (!Number.isSafeInteger(bytes + size)) {
            troubles.push(`${path} says it has ${size} bytes: that cannot be, it is left out`);
            continue;
          }
          files.push({ path, size, modified: Number(entry.mtime) * 1000 });
          bytes += size;
        }
      }
      progress(files.length);
    }
    if (entries >= MAX_ENTRIES) troubles.push(`only the first ${MAX_ENTRIES} files and folders were listed`);
    files.sort((a, b) => (a.path < b.path ? -1 : 1));
    return { files, bytes, troubles: fewOf(troubles) };
  } finally {
    await sync.dispose().catch(() => undefined);
  }
}

/** Troubles that are told one by one: a phone may make as many as it likes. */
const MAX_TROUBLES = 100;
const fewOf = (troubles: readonly string[]): string[] =>
  troubles.length <= MAX_TROUBLES
    ? [...troubles]
    : [...troubles.slice(0, MAX_TROUBLES), `and ${troubles.length - MAX_TROUBLES} more like these`];

/** Entries of a folder as they come. @throws UnusableError when the phone went away, or the walk was stopped */
async function* entriesOf(
  adb: Adb,
  sync: AdbSync,
  path: string,
  troubles: string[],
  signal: AbortSignal | undefined,
): AsyncGenerator<AdbSyncEntry> {
  // A trailing slash: the root of the shared storage is a link on most phones.
  const entries = sync.opendir(`${path}/`);
  const stopped = new UnusableError("Listing was stopped.");
  for (;;) {
    let next: IteratorResult<AdbSyncEntry, void>;
    try {
      next = await untilStopped(whileConnected(adb, entries.next()), signal, stopped);
    } catch (cause) {
      if (cause === stopped) throw cause;
      if (!(await isThere(adb)))
        throw new UnusableError("The phone went away while its storage was listed: look at the cable, then list it again.");
      troubles.push(`${path}: ${cause instanceof Error ? cause.message : String(cause)}`);
      return;
    }
    if (next.done) return;
    yield next.value;
  }
}

/** Waits for an answer, or until it is stopped: nobody waits for a phone that has fallen silent. */
function untilStopped<T>(answer: Promise<T>, signal: AbortSignal | undefined, because: Error): Promise<T> {
  if (!signal) return answer;
  return new Promise((resolve, reject) => {
    const stop = () => reject(because);
    if (signal.aborted) stop();
    signal.addEventListener("abort", stop, { once: true });
    answer.then(resolve, reject).finally(() => signal.removeEventListener("abort", stop));
  });
}

const isThere = (adb: Adb): Promise<boolean> =>
  runOnPhone(adb, "id").then(
    () => true,
    () => false,
  );

/**
 * A file of the shared storage as a source. Read from its start on it is pulled by the sync protocol, as one stream;
 * anything else is read by `dd`.
 */
export function sharedFileSource(adb: Adb, file: SharedFile, root = SHARED_ROOT): ByteSource {
  const path = root + file.path;
  const apart = new PhoneFileSource(adb, path, file.size, "plain", file.path);
  let pull: Pull | null = null;
  let lost: UnreadableError | null = null;
  return {
    name: file.path,
    size: file.size,
    async read(offset, length) {
      checkRange(this, offset, length);
      if (length === 0) return new Uint8Array(0);
      if (lost && offset + length > lost.offset) throw lost;
      if (offset === 0) {
        await pull?.end();
        pull = await Pull.begin(adb, path, file.size).catch(() => {
          throw new UnusableError(`${file.path} cannot be pulled: the phone does not answer any more. Look at the cable, then go on.`);
        });
      }
      if (!pull || pull.at !== offset) return apart.read(offset, length);
      const bytes = await pull.exactly(length, file.path).catch((cause: unknown) => {
        if (cause instanceof UnreadableError && cause.forGood) lost = cause;
        throw cause;
      });
      if (offset + length === file.size) {
        await pull.end();
        pull = null;
      }
      return bytes;
    },
  };
}

/** One pull under way. */
class Pull {
  readonly #sync: AdbSync;
  readonly #adb: Adb;
  readonly #size: number;
  readonly #pieces: { read(): Promise<{ done: boolean; value?: Uint8Array }> };
  #left: Uint8Array = new Uint8Array(0);
  at = 0;

  private constructor(adb: Adb, sync: AdbSync, path: string, size: number) {
    this.#adb = adb;
    this.#size = size;
    this.#sync = sync;
    this.#pieces = sync.read(path).getReader();
  }

  static async begin(adb: Adb, path: string, size: number): Promise<Pull> {
    return new Pull(adb, await whileConnected(adb, adb.sync()), path, size);
  }

  /** The rest of the file: it is not there, and never will be. */
  #lost(because: string | undefined): UnreadableError {
    return new UnreadableError(this.at, this.#size - this.at, because, true);
  }

  async exactly(length: number, name: string): Promise<Uint8Array> {
    const bytes = new Uint8Array(length);
    let filled = 0;
    while (filled < length) {
      if (this.#left.length === 0) {
        const { done, value } = await whileConnected(this.#adb, this.#pieces.read()).catch(async (cause: unknown) => {
          // A file that went away is that file's trouble; a phone that went away is the end of the work.
          if (await isThere(this.#adb)) throw this.#lost(cause instanceof Error ? cause.message : undefined);
          throw new UnusableError(`${name}: the phone does not answer any more. Look at the cable, then go on.`);
        });
        if (done || !value) throw this.#lost("the file became shorter meanwhile");
        this.#left = value;
      }
      const part = this.#left.subarray(0, length - filled);
      bytes.set(part, filled);
      filled += part.length;
      this.at += part.length;
      this.#left = this.#left.subarray(part.length);
    }
    return bytes;
  }

  /** A pull cannot be called off within the protocol: its connection is ended instead. */
  async end(): Promise<void> {
    await this.#sync.dispose().catch(() => undefined);
    void drained(this.#pieces);
  }
}
