import { blobSource } from "../../core/bytes/blob-source.ts";
import { portableSha256 } from "../../core/bytes/hash.ts";
import { rangeSource } from "../../core/bytes/range-source.ts";
import type { ByteSource } from "../../core/bytes/source.ts";
import { openSparse } from "../../core/medium/sparse-image.ts";
import { filesIn, folderSource, pathsOf } from "./folder-files.ts";
import { portSource } from "./phones/source-port.ts";
import type { Grant } from "./protocol.ts";

/**
 * Opens what the screen was allowed to read: a file, a folder as the archive that its files would make, a phone, or something
 * the own server gives by byte range. An Android sparse image is opened as the image that it stands for.
 * @throws UnusableError where there is nothing to work on
 */
export async function openGrant(grant: Grant): Promise<ByteSource> {
  if (grant.kind === "folder") return folderSource(grant.handle.name, await filesIn(grant.handle));
  if (grant.kind === "files") return folderSource(grant.name, pathsOf(grant.files));
  const source = openBytes(grant);
  return (await openSparse(source)) ?? source;
}

function openBytes(grant: Exclude<Grant, { kind: "folder" | "files" }>): ByteSource {
  if (grant.kind === "file") return blobSource(grant.file, grant.file.name);
  if (grant.kind === "port") return portSource(grant.port, grant.name, grant.size);
  return rangeSource(
    async (first, last) => {
      const answer = await fetch(grant.url, { headers: { Range: `bytes=${first}-${last}` } });
      return { status: answer.status, bytes: new Uint8Array(await answer.arrayBuffer()) };
    },
    grant.size,
    grant.name,
  );
}

/** Places and bytes of a source that its sample looks at. */
const PLACES = 16;
const PLACE_BYTES = 4096;

/** SHA-256 over the size and a few places: enough to tell that a file is another one. Unreadable places count as empty. */
export async function sampleOf(source: ByteSource): Promise<string> {
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
