import { createReadStream, createWriteStream } from "node:fs";
import { mkdtemp, rm, statfs } from "node:fs/promises";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { pipeline } from "node:stream/promises";
import { createGunzip } from "node:zlib";
import { UnusableError } from "../core/bytes/source.ts";
import { isFull, whyNot } from "../core/handover/refusals.ts";

/** Files that were unpacked for a scan: they lie in a folder of their own, and go when it ends. */
export class Unpacked {
  #folder: Promise<string> | null = null;

  /** A path for a file of this name. */
  async pathOf(name: string): Promise<string> {
    this.#folder ??= mkdtemp(join(tmpdir(), "jubar-"));
    return join(await this.#folder, name);
  }

  /** Unpacks a gzip file. @throws UnusableError for one that is none, or not whole */
  async gunzip(path: string): Promise<string> {
    const raw = await this.pathOf(basename(path, ".gz"));
    await pipeline(createReadStream(path), createGunzip(), createWriteStream(raw, { mode: 0o600 })).catch(
      (cause: NodeJS.ErrnoException) => {
        throw this.#noRoom(cause) ?? new UnusableError(`${path} is not a whole gzip file (${cause.message}).`);
      },
    );
    return raw;
  }

  /** Writes pieces to a file as they come. */
  async write(name: string, pieces: AsyncIterable<Uint8Array>): Promise<string> {
    const path = await this.pathOf(name);
    await pipeline(pieces, createWriteStream(path, { mode: 0o600 })).catch((cause: NodeJS.ErrnoException) => {
      throw this.#noRoom(cause) ?? cause;
    });
    return path;
  }

  /** @throws UnusableError where what is to be unpacked is longer than the room there is */
  async expectRoom(bytes: number): Promise<void> {
    const { bavail, bsize } = await statfs(tmpdir());
    if (bavail * bsize < bytes)
      throw new UnusableError(
        `Unpacking needs ${bytes} bytes in ${tmpdir()}, and ${bavail * bsize} are free there. Another folder is taken with TMPDIR=….`,
      );
  }

  /** A full disk is not the file's fault. */
  #noRoom(cause: NodeJS.ErrnoException): UnusableError | null {
    const because = whyNot(cause);
    return isFull(because)
      ? new UnusableError(`Unpacking needs room in ${tmpdir()}: ${because}. Another folder is taken with TMPDIR=….`)
      : null;
  }

  async remove(): Promise<void> {
    if (this.#folder) await rm(await this.#folder, { recursive: true, force: true });
  }
}
