import { createReadStream, createWriteStream } from "node:fs";
import { type FileHandle, mkdtemp, open, readFile, rm, stat } from "node:fs/promises";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { pipeline } from "node:stream/promises";
import { setTimeout as wait } from "node:timers/promises";
import { createGunzip } from "node:zlib";
import { z } from "zod";
import { type Fault, faultySource } from "../core/bytes/faulty-source.ts";
import { handleSource } from "../core/bytes/handle-source.ts";
import { joinedSource } from "../core/bytes/joined-source.ts";
import { type ByteSource, UnusableError } from "../core/bytes/source.ts";
import { openSparse } from "../core/medium/sparse-image.ts";
import { folderSource } from "./folder-source.ts";

/** A source that is open, and how to let go of it. */
export interface OpenSource {
  readonly source: ByteSource;
  close(): Promise<void>;
}

const FaultFile = z.object({
  ranges: z.array(
    z.object({
      start: z.number().int().nonnegative(),
      length: z.number().int().positive(),
      behaviour: z.enum(["dead", "flaky", "slow"]),
      succeedsOnAttempt: z.number().int().positive().optional(),
      delayMs: z.number().nonnegative().optional(),
    }),
  ),
});

/** More parts than this are no split image. */
const MAX_PARTS = 999;

/** Opens an image (raw, gzip, split into `.001 .002 …`, Android sparse), or a folder of files. @throws UnusableError in one sentence */
export async function openSource(path: string, faultsPath?: string): Promise<OpenSource> {
  const opened: FileHandle[] = [];
  let unpacked: string | null = null;
  const close = async () => {
    await Promise.all(opened.map((handle) => handle.close()));
    if (unpacked) await rm(unpacked, { recursive: true, force: true });
  };
  const openFile = async (file: string): Promise<ByteSource> => {
    const info = await stat(file).catch(() => null);
    if (!info) throw new UnusableError(`There is no file ${file}.`);
    if (!info.isFile()) throw new UnusableError(`${file} is not a file.`);
    if (info.size === 0) throw new UnusableError(`${file} is empty: there is nothing in it to look for.`);
    const handle = await open(file, "r").catch((cause: NodeJS.ErrnoException) => {
      throw new UnusableError(`${file} cannot be opened (${cause.code ?? cause.message}).`);
    });
    opened.push(handle);
    return handleSource(handle, info.size, basename(file), (length) => Buffer.allocUnsafeSlow(length));
  };
  try {
    let source: ByteSource;
    if (path.endsWith(".gz")) {
      await openFile(path);
      unpacked = await mkdtemp(join(tmpdir(), "jubar-"));
      const raw = join(unpacked, basename(path, ".gz"));
      await pipeline(createReadStream(path), createGunzip(), createWriteStream(raw, { mode: 0o600 })).catch((cause: Error) => {
        throw new UnusableError(`${path} is not a whole gzip file (${cause.message}).`);
      });
      source = await openFile(raw);
    } else if (/\.001$/.test(path)) {
      const parts: ByteSource[] = [];
      for (let part = 1; part <= MAX_PARTS; part++) {
        const name = path.replace(/001$/, String(part).padStart(3, "0"));
        if (!(await stat(name).catch(() => null))) break;
        parts.push(await openFile(name));
      }
      if (parts.length === 0) throw new UnusableError(`There is no file ${path}.`);
      source = joinedSource(parts, basename(path));
    } else if ((await stat(path).catch(() => null))?.isDirectory()) source = await folderSource(path);
    else source = await openFile(path);
    source = (await openSparse(source)) ?? source;
    if (faultsPath) source = faultySource(source, await readFaults(faultsPath), async (ms) => void (await wait(ms)));
    return { source, close };
  } catch (cause) {
    await close();
    throw cause;
  }
}

async function readFaults(path: string): Promise<Fault[]> {
  const text = await readFile(path, "utf8").catch(() => {
    throw new UnusableError(`There is no file ${path}.`);
  });
  try {
    return FaultFile.parse(JSON.parse(text)).ranges;
  } catch {
    throw new UnusableError(`${path} is no list of faults.`);
  }
}
