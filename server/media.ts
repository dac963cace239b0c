import { constants } from "node:fs";
import { type FileHandle, open, realpath } from "node:fs/promises";
import { basename, dirname, join } from "node:path";
import { Readable } from "node:stream";

/** A disk image that this server hands out by byte range, read-only. The path never leaves the server. */
export interface Medium {
  readonly id: string;
  readonly name: string;
  readonly path: string;
  readonly size: number;
  /** What the bench says of it. */
  readonly note: string;
  /** What reads it, where that is a worn card's reader: does it give these bytes? Null: it always does. */
  readonly reader: ((offset: number, length: number) => Promise<boolean>) | null;
  /** Practice media come with a ticket of their own. */
  readonly ticket: { readonly customer: string; readonly device: string; readonly wants: string } | null;
}

/** Longest range given at once: readers ask for pieces. */
const MAX_RANGE = 64 * 1024 * 1024;

/**
 * Opens a medium anew for each answer: it may have gone, or a link may have been put in its place meanwhile.
 * @returns null where it is no longer the file, inside its own folder, that the server was started with
 */
export async function openMedium({ path, size }: Medium): Promise<FileHandle | null> {
  try {
    const folder = await realpath(dirname(path));
    if ((await realpath(path)) !== join(folder, basename(path))) return null;
    const file = await open(path, constants.O_RDONLY | constants.O_NOFOLLOW);
    const about = await file.stat();
    if (about.isFile() && about.size === size) return file;
    await file.close();
    return null;
  } catch {
    return null;
  }
}

/** Answers one byte range (RFC 9110 §14.1.2: `bytes=first-last`, both inclusive); 204 where a worn card does not read, 410 where the medium is no longer there. */
export async function rangeAnswer(medium: Medium, header: string | undefined): Promise<Response> {
  const parts = /^bytes=(\d{1,15})-(\d{1,15})$/.exec(header ?? "");
  const first = Number(parts?.[1]);
  const last = Math.min(Number(parts?.[2]), medium.size - 1);
  if (!parts || first > last || last - first >= MAX_RANGE)
    return new Response(null, { status: 416, headers: { "Content-Range": `bytes */${medium.size}` } });
  // No content, and no error of the server's: the card does not give it.
  if (medium.reader && !(await medium.reader(first, last - first + 1))) return new Response(null, { status: 204 });
  const file = await openMedium(medium);
  if (!file) return new Response("This medium is no longer there as it was.", { status: 410 });
  const stream = file.createReadStream({ start: first, end: last, highWaterMark: 1024 * 1024 });
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    status: 206,
    headers: {
      "Content-Type": "application/octet-stream",
      "Content-Length": String(last - first + 1),
      "Content-Range": `bytes ${first}-${last}/${medium.size}`,
      "Cache-Control": "no-store",
    },
  });
}
