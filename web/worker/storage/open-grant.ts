import { packedImageIn } from "../../../core/archives/packed-image.ts";
import { holdsBackup } from "../../../core/backup/unpack.ts";
import { blobSource } from "../../../core/bytes/blob-source.ts";
import { portableSha256 } from "../../../core/bytes/hash.ts";
import { holedSource } from "../../../core/bytes/holed-source.ts";
import { memorySource } from "../../../core/bytes/memory-source.ts";
import { patientSource } from "../../../core/bytes/patient-source.ts";
import { rangeSource } from "../../../core/bytes/range-source.ts";
import { type ByteSource, UnusableError } from "../../../core/bytes/source.ts";
import { openVolumes } from "../../../core/filesystems/open-volumes.ts";
import { tarSource } from "../../../core/filesystems/tar/tar-source.ts";
import { joinedPieces, pieceOf } from "../../../core/medium/pieces.ts";
import { sampleOf, wholeSampleOf } from "../../../core/medium/sample.ts";
import { openSparse } from "../../../core/medium/sparse-image.ts";
import { isLooseFile } from "../../../core/scan/loose-files.ts";
import { eraseFile } from "../../kept/erase-file.ts";
import type { MediumKind } from "../../kept/medium.ts";
import { unpackedPaths } from "../../kept/unpacked-folder.ts";
import { portSource } from "../phones/source-port.ts";
import { filesIn, folderSource, pathsOf } from "./folder-files.ts";
import type { Grant } from "./grant.ts";
import { unpackedArchive, unpackedBackup, unpackedImage } from "./unpacked-backup.ts";

/**
 * Opens what the screen was allowed to read: a file, a folder as the archive that its files would make, a phone, or something
 * the own server gives by byte range. An Android sparse image is opened as the image that it stands for, a backup as the archive
 * in it, a single database or export as an archive of it.
 * @throws PassphraseNeeded for an encrypted backup, UnusableError where there is nothing to work on
 */
export const openGrant = async (grant: Grant): Promise<ByteSource> => (await openStorage(grant)).source;

/** What was opened, what a technician calls it, and, of a backup, the name of the archive it was unpacked to. */
export interface OpenStorage {
  readonly source: ByteSource;
  readonly kind: MediumKind;
  readonly unpacked?: string;
}

/** As `openGrant`, with what it turned out to be. */
export async function openStorage(grant: Grant, progress: Progress = () => {}): Promise<OpenStorage> {
  if (grant.kind === "folder") return { kind: "folder", source: folderSource(grant.handle.name, await filesIn(grant.handle)) };
  if (grant.kind === "files") return { kind: "folder", source: folderSource(grant.name, pathsOf(grant.files)) };
  if (grant.kind === "unpacked") {
    const source = await unpackedArchive(grant.archive, grant.name);
    if (!source) throw new UnusableError("The browser threw away what this was unpacked to: give it again.");
    // Of what was packed by itself, what it stands for is told anew; a backup's archive is what it is.
    const image = (await openSparse(source)) ?? source;
    if (!(await isLooseFile(image))) return { kind: "backup", source: image, unpacked: grant.archive };
    const member = { path: image.name, size: image.size, modified: 0, content: image };
    return { kind: "export", source: tarSource(image.name, [member]), unpacked: grant.archive };
  }
  if (grant.kind === "together" && grant.files.every(({ name }) => pieceOf(name) === null)) {
    const members = grant.files.map((file) => ({
      path: file.name,
      size: file.size,
      modified: file.lastModified,
      content: blobSource(file, file.name),
    }));
    return { kind: "export", source: tarSource(grant.name, members) };
  }
  // A copy with holes is a raw one, made here.
  if (grant.kind === "file" && grant.lacks)
    return { kind: "copy", source: holedSource(blobSource(grant.file, grant.file.name), grant.lacks.holes, grant.lacks.size) };
  const given = await openBytes(grant);
  const opened = await unpackedFrom(given, progress);
  const packed = opened?.source ?? given;
  const source = (await openSparse(packed)) ?? packed;
  if (opened && !(await isLooseFile(source)) && !(await holdsBackup(source))) return { kind: "image", source, unpacked: opened.unpacked };
  if (await holdsBackup(source)) {
    const unpacked = await nameOf(source);
    const archive = await unpackedBackup(source, unpacked, grant.kind === "file" ? (grant.passphrase ?? null) : null);
    return { kind: "backup", source: archive, unpacked };
  }
  if (!(await isLooseFile(source))) return { kind: grant.kind === "port" ? "partition" : "image", source };
  const modified = grant.kind === "file" ? grant.file.lastModified : 0;
  return {
    kind: "export",
    ...(opened && { unpacked: opened.unpacked }),
    source: tarSource(source.name, [{ path: source.name, size: source.size, modified, content: source }]),
  };
}

/** Hears how far unpacking is: parts of the whole, 0 to 1. */
export type Progress = (part: number) => void;

/**
 * What is packed as a whole, unpacked into the browser's own storage, once; null: it is not packed so. The one file of an archive is taken out only where
 * a disk image comes out.
 */
async function unpackedFrom(source: ByteSource, progress: Progress): Promise<{ source: ByteSource; unpacked: string } | null> {
  const packed = await packedImageIn(source);
  if (!packed) return null;
  if (packed.mustBeImage && (await isLooseFile(memorySource(await packed.head(), packed.name)))) return null;
  const unpacked = await nameOf(source);
  const inner = await unpackedImage(packed, unpacked, progress);
  if (!packed.mustBeImage || (await openSparse(inner)) || (await openVolumes(patientSource(inner))).volumes.length > 0)
    return { source: inner, unpacked };
  for (const path of unpackedPaths(unpacked)) await eraseFile(path);
  return null;
}

/** A name by what a few places of it hold; by all that is known of it where one of them does not read. */
const nameOf = async (source: ByteSource): Promise<string> => {
  const sha256 = await portableSha256();
  const whole = await wholeSampleOf(source, sha256);
  if (whole !== null) return whole;
  sha256.start();
  sha256.update(new TextEncoder().encode(JSON.stringify([source.name, source.size, await sampleOf(source, await portableSha256())])));
  return sha256.digest();
};

/** Something that the own server gives by range: where. */
export interface ServedSource extends ByteSource {
  readonly address: string;
}

export const isServed = (source: ByteSource): source is ServedSource => "address" in source;

async function openBytes(grant: Exclude<Grant, { kind: "folder" | "files" | "unpacked" }>): Promise<ByteSource> {
  // The first piece of an image alone: what it lacks is said.
  if (grant.kind === "file" && pieceOf(grant.file.name)?.number === 1) return joinedPieces([blobSource(grant.file, grant.file.name)]);
  if (grant.kind === "file") return blobSource(grant.file, grant.file.name);
  if (grant.kind === "together") return joinedPieces(grant.files.map((file) => blobSource(file, file.name)));
  if (grant.kind === "port") return portSource(grant.port, grant.name, grant.size);
  const source = rangeSource(
    async (first, last) => {
      const answer = await fetch(grant.url, { headers: { Range: `bytes=${first}-${last}` } });
      return { status: answer.status, bytes: new Uint8Array(await answer.arrayBuffer()) };
    },
    // A ticket knows how large what it stands for is: the file itself may be packed.
    (await sizeOf(grant.url)) ?? grant.size,
    grant.name,
  );
  const served: ServedSource = { ...source, address: grant.url };
  return served;
}

/** Bytes of something that a server gives by range (RFC 9110 §14.4: the total stands behind the slash). */
async function sizeOf(url: string): Promise<number | null> {
  const answer = await fetch(url, { headers: { Range: "bytes=0-0" } });
  const total = /\/(\d+)$/.exec(answer.headers.get("Content-Range") ?? "")?.[1];
  return total === undefined ? null : Number(total);
}
