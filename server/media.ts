import { createReadStream } from "node:fs";
import { Readable } from "node:stream";

/** A disk image that this server hands out by byte range, read-only. The path never leaves the server. */
export interface Medium {
  readonly id: string;
  readonly name: string;
  readonly path: string;
  readonly size: number;
  /** What the bench says of it. */
  readonly note: string;
  /** Practice media come with a ticket of their own. */
  readonly ticket: { readonly customer: string; readonly device: string; readonly wants: string } | null;
}

/** Longest range given at once: readers ask for pieces. */
const MAX_RANGE = 64 * 1024 * 1024;

/** Answers one byte range (RFC 9110 §14.1.2: `bytes=first-last`, both inclusive). */
export function rangeAnswer(medium: Medium, header: string | undefined): Response {
  const parts = /^bytes=(\d{1,15})-(\d{1,15})$/.exec(header ?? "");
  const first = Number(parts?.[1]);
  const last = Math.min(Number(parts?.[2]), medium.size - 1);
  if (!parts || first > last || last - first >= MAX_RANGE)
    return new Response(null, { status: 416, headers: { "Content-Range": `bytes */${medium.size}` } });
  const body = Readable.toWeb(createReadStream(medium.path, { start: first, end: last, highWaterMark: 1024 * 1024 })) as ReadableStream;
  return new Response(body, {
    status: 206,
    headers: {
      "Content-Type": "application/octet-stream",
      "Content-Length": String(last - first + 1),
      "Content-Range": `bytes ${first}-${last}/${medium.size}`,
      "Cache-Control": "no-store",
    },
  });
}
