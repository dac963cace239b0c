import { holdsBackup } from "../../core/backup/unpack.ts";
import { blobSource } from "../../core/bytes/blob-source.ts";
import { portableSha256 } from "../../core/bytes/hash.ts";
import { type HoledSource, holedSource } from "../../core/bytes/holed-source.ts";
import { rangeSource } from "../../core/bytes/range-source.ts";
import type { ByteSource } from "../../core/bytes/source.ts";
import { tarSource } from "../../core/filesystems/tar/tar-source.ts";
import { openSparse } from "../../core/medium/sparse-image.ts";
import { isLooseFile } from "../../core/scan/loose-files.ts";
import { filesIn, folderSource, pathsOf } from "./folder-files.ts";
import { portSource } from "./phones/source-port.ts";
import type { Grant } from "./protocol.ts";
import { unpackedBackup } from "./unpacked-backup.ts";

/**
 * Opens what the screen was allowed to read: a file, a folder as the archive that its files would make, a phone, or something
 * the own server gives by byte range. An Android sparse image is opened as the image that it stands for, a backup as the archive
 * in it, a single database or export as an archive of it.
 * @throws PassphraseNeeded for an encrypted backup
 * @throws UnusableError where there is nothing to work on
 */
export async function openGrant(grant: Grant): Promise<ByteSource> {
  if (grant.kind === "folder") return folderSource(grant.handle.name, await filesIn(grant.handle));
  if (grant.kind === "files") return folderSource(grant.name, pathsOf(grant.files));
  // A copy with holes is a raw one, made here: it is looked at through what stands in it, by nobody but the scan.
  if (grant.kind === "file" && grant.lacks)
    return holedSource(blobSource(grant.file, grant.file.name), grant.lacks.holes, grant.lacks.size);
  const packed = await openBytes(grant);
  const source = (await openSparse(packed)) ?? packed;
  if (await holdsBackup(source))
    return unpackedBackup(source, await sampleOf(source), grant.kind === "file" ? (grant.passphrase ?? null) : null);
  if (!(await isLooseFile(source))) return source;
  const modified = grant.kind === "file" ? grant.file.lastModified : 0;
  return tarSource(source.name, [{ path: source.name, size: source.size, modified, content: source }]);
}

async function openBytes(grant: Exclude<Grant, { kind: "folder" | "files" }>): Promise<ByteSource> {
  if (grant.kind === "file") return blobSource(grant.file, grant.file.name);
  if (grant.kind === "port") return portSource(grant.port, grant.name, grant.size);
  return rangeSource(
    async (first, last) => {
      const answer = await fetch(grant.url, { headers: { Range: `bytes=${first}-${last}` } });
      return { status: answer.status, bytes: new Uint8Array(await answer.arrayBuffer()) };
    },
    // A ticket knows how large what it stands for is: the file itself may be packed.
    (await sizeOf(grant.url)) ?? grant.size,
    grant.name,
  );
}

/** Bytes of something that a server gives by range (RFC 9110 §14.4: the total stands behind the slash). */
async function sizeOf(url: string): Promise<number | null> {
  const answer = await fetch(url, { headers: { Range: "bytes=0-0" } });
  const total = /\/(\d+)$/.exec(answer.headers.get("Content-Range") ?? "")?.[1];
  return total === undefined ? null : Number(total);
}

/** Places and bytes of a source that its sample looks at. */
const PLACES = 16;
const PLACE_BYTES = 4096;

/** SHA-256 over the size and a few places: enough to tell that a file is another one. Unreadable places count as empty. */
export async function sampleOf(opened: ByteSource | HoledSource): Promise<string> {
  const source = "beneath" in opened ? opened.beneath : opened;
  const sha256 = await portableSha256();
  sha256.start();
  sha256.update(new TextEncoder().encode(String(source.size)));
  for (let place = 0; place < PLACES; place++) {
    const length = Math.min(PLACE_BYTES, source.size);
    const at = Math.floor(((source.size - length) * place) / (PLACES - 1));
    sha256.update(await source.read(at, length).catch(() => new Uint8Array(0)));
  }
  return sha256.digest();
}
