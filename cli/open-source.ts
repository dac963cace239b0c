import { type FileHandle, open, readdir, readFile, stat } from "node:fs/promises";
import { basename, dirname, join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { z } from "zod";
import { packedImageIn } from "../core/archives/packed-image.ts";
import { holdsBackup, unpackBackup } from "../core/backup/unpack.ts";
import { Fault, faultySource } from "../core/bytes/faulty-source.ts";
import { handleSource } from "../core/bytes/handle-source.ts";
import { memorySource } from "../core/bytes/memory-source.ts";
import { patientSource } from "../core/bytes/patient-source.ts";
import { type ByteSource, UnusableError, withTroubles } from "../core/bytes/source.ts";
import type { Trouble } from "../core/bytes/trouble.ts";
import { openVolumes } from "../core/filesystems/open-volumes.ts";
import { type TarMember, tarSource } from "../core/filesystems/tar/tar-source.ts";
import { joinedPieces, MOST_PIECES, type PieceName, pieceOf } from "../core/medium/pieces.ts";
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

/** What lies beside a database and belongs to it. */
const BESIDE = ["-wal", "-journal"];

/** All pieces of an image that lie beside one of them. */
async function piecesBeside(path: string, { whole }: PieceName): Promise<string[]> {
  const names = await readdir(dirname(path));
  return names.filter((name) => pieceOf(name)?.whole === whole).slice(0, MOST_PIECES);
}

/** Does a volume open in it, or does it stand for an image? */
const isImage = async (source: ByteSource): Promise<boolean> =>
  (await openSparse(source)) !== null || (await openVolumes(patientSource(source))).volumes.length > 0;

const isThere = async (path: string): Promise<boolean> => (await stat(path).catch(() => null))?.isFile() ?? false;

/**
 * Opens an image (raw, packed as gzip, xz or the one file of a ZIP archive, split into `.001 .002 …`, Android sparse), a folder of files, a backup, or a single database or
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
  /** What is packed as a whole, unpacked; null: it is not. A ZIP archive of one file that is no disk image stays the archive that it is. */
  const unpackedFrom = async (source: ByteSource): Promise<ByteSource | null> => {
    const packed = await packedImageIn(source);
    if (!packed) return null;
    if (packed.mustBeImage && (await isLooseFile(memorySource(await packed.head(), packed.name)))) return null;
    if (packed.size !== null) await unpacked.expectRoom(packed.size);
    const inner = await openFile(await unpacked.write(packed.name, packed.pieces()), true);
    return packed.mustBeImage && !(await isImage(inner)) ? null : inner;
  };
  try {
    let source: ByteSource;
    const piece = pieceOf(basename(path));
    if (piece && (await isThere(path))) {
      const pieces: ByteSource[] = [];
      for (const name of await piecesBeside(path, piece)) pieces.push(await openFile(join(dirname(path), name)));
      source = joinedPieces(pieces);
    } else if ((await stat(path).catch(() => null))?.isDirectory()) source = await folderSource(path);
    else source = await openFile(path);
    source = (await unpackedFrom(source)) ?? source;
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
