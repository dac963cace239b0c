import { type FileHandle, open, readFile, stat } from "node:fs/promises";
import { basename } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { z } from "zod";
import { holdsBackup, unpackBackup } from "../core/backup/unpack.ts";
import { Fault, faultySource } from "../core/bytes/faulty-source.ts";
import { handleSource } from "../core/bytes/handle-source.ts";
import { joinedSource } from "../core/bytes/joined-source.ts";
import { type ByteSource, UnusableError, withTroubles } from "../core/bytes/source.ts";
import type { Trouble } from "../core/bytes/trouble.ts";
import { type TarMember, tarSource } from "../core/filesystems/tar/tar-source.ts";
import { openSparse } from "../core/medium/sparse-image.ts";
import { isLooseFile } from "../core/scan/loose-files.ts";
import { folderSource } from "./folder-source.ts";
import { Unpacked } from "./unpacked.ts";

/** A source that is open, and how to let go of it. */
export interface OpenSource {
  readonly source: ByteSource;
  close(): Promise<void>;
}

/** How a source is opened. */
export interface Opening {
  /** A list of faults to be simulated. */
  readonly faults?: string;
  /** The owner's passphrase of an encrypted backup. */
  readonly passphrase?: string;
}

const FaultFile = z.object({ ranges: z.array(Fault) });

/** More parts than this are no split image. */
const MAX_PARTS = 999;
/** What lies beside a database and belongs to it. */
const BESIDE = ["-wal", "-journal"];

const isThere = async (path: string): Promise<boolean> => (await stat(path).catch(() => null))?.isFile() ?? false;

/**
 * Opens an image (raw, gzip, split into `.001 .002 …`, Android sparse), a folder of files, a backup, or a single database or
 * export: these last as the archive that they would make, a database with what lies beside it.
 * @throws UnusableError in one sentence; PassphraseNeeded for an encrypted backup
 */
export async function openSource(path: string, { faults, passphrase }: Opening = {}): Promise<OpenSource> {
  const opened: FileHandle[] = [];
  const unpacked = new Unpacked();
  const troubles: Trouble[] = [];
  const close = async () => {
    await Promise.all(opened.map((handle) => handle.close()));
    await unpacked.remove();
  };
  /** A file, unpacked first where it is a gzip one. */
  const openFile = async (file: string, mayBeEmpty = false): Promise<ByteSource> => {
    const raw = file.endsWith(".gz") && (await isThere(file)) ? await unpacked.gunzip(file) : file;
    const info = await stat(raw).catch(() => null);
    if (!info) throw new UnusableError(`There is no file ${file}.`);
    if (!info.isFile()) throw new UnusableError(`${file} is not a file.`);
    if (info.size === 0 && !mayBeEmpty) throw new UnusableError(`${file} is empty: there is nothing in it to look for.`);
    const handle = await open(raw, "r").catch((cause: NodeJS.ErrnoException) => {
      throw new UnusableError(`${file} cannot be opened (${cause.code ?? cause.message}).`);
    });
    opened.push(handle);
    return handleSource(handle, info.size, basename(raw), (length) => Buffer.allocUnsafeSlow(length));
  };
  /** A file by itself, with what lies beside it, as an archive. */
  const asArchive = async (source: ByteSource): Promise<ByteSource> => {
    const members: TarMember[] = [];
    const member = async (file: string, content: ByteSource) =>
      members.push({ path: content.name, size: content.size, modified: (await stat(file)).mtimeMs, content });
    await member(path, source);
    const plain = path.replace(/\.gz$/, "");
    for (const ending of BESIDE)
      for (const file of [`${plain}${ending}`, `${plain}${ending}.gz`])
        if (members.every(({ path: known }) => known !== `${source.name}${ending}`) && (await isThere(file)))
          await member(file, await openFile(file, true));
    return tarSource(source.name, members);
  };
  try {
    let source: ByteSource;
    if (/\.001$/.test(path)) {
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
    if (await holdsBackup(source)) {
      const trouble = (what: string) => troubles.push({ what, at: 0, length: source.size });
      const archive = await unpacked.write(`${source.name}.tar`, unpackBackup(source, passphrase ?? null, trouble));
      source = await openFile(archive);
    } else if (await isLooseFile(source)) source = await asArchive(source);
    if (faults) source = faultySource(source, await readFaults(faults), async (ms) => void (await wait(ms)));
    return { source: withTroubles(source, troubles), close };
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
