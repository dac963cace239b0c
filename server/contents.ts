import { randomUUID } from "node:crypto";
import { Hono } from "hono";
import { bodyLimit } from "hono/body-limit";
import { z } from "zod";
import { extentsSource, HOLE, totalLength } from "../core/bytes/extents.ts";
import { handleSource } from "../core/bytes/handle-source.ts";
import type { ByteSource } from "../core/bytes/source.ts";
import { onlyOwnPage } from "./guards.ts";
import { type Medium, openMedium } from "./media.ts";

/** A content may lie in so many pieces, and be told in so many bytes. */
const MOST_PIECES = 100_000;
const MAX_BODY = 4 * 1024 * 1024;
/** Contents that have an address at a time: whoever was not asked for longest loses its own. */
const MOST_OPEN = 64;
/** Bytes that are read at once. */
const PIECE = 256 * 1024;
/** What a reader of worn cards gives or does not. */
const LEAST_READ = 4096;

/** A recording on a medium, by where it lies: what a page may ask an address for. Nothing that a browser would run or show as a page. */
const Content = z.object({
  media: z.string().regex(/^(audio|video)\/[\w.+-]{1,80}$/),
  extents: z
    .array(z.object({ offset: z.number().int().min(HOLE), length: z.number().int().positive() }))
    .min(1)
    .max(MOST_PIECES),
});
type Content = z.infer<typeof Content>;

/**
 * Addresses for contents that lie scattered on a medium, so that a player reads what it wants, when it wants it (RFC 9110 §14). Places that do not
 * read are zeros. Nothing is copied, and an address says nothing of what lies behind it.
 */
export function contentRoutes(media: readonly Medium[]): Hono {
  const open = new Map<string, { readonly medium: Medium; readonly content: Content }>();
  const app = new Hono();
  app.post(
    "/media/:id/contents",
    onlyOwnPage,
    bodyLimit({ maxSize: MAX_BODY, onError: (context) => context.text("It lies in too many pieces.", 413) }),
    async (context) => {
      const medium = media.find(({ id }) => id === context.req.param("id"));
      if (!medium) return context.text("No such medium.", 404);
      const content = Content.safeParse(await context.req.json().catch(() => null));
      if (!content.success || !content.data.extents.every(({ offset, length }) => offset === HOLE || offset + length <= medium.size))
        return context.text("No content of this medium lies so.", 400);
      const id = randomUUID();
      open.set(id, { medium, content: content.data });
      if (open.size > MOST_OPEN) open.delete([...open.keys()][0]);
      return context.json({ url: `/contents/${id}` });
    },
  );
  app.get("/contents/:id", async (context) => {
    const id = context.req.param("id");
    const one = open.get(id);
    if (!one) return context.text("No such content.", 404);
    // The last one asked for stays longest.
    open.delete(id);
    open.set(id, one);
    return contentAnswer(one.medium, one.content, context.req.header("range"));
  });
  return app;
}

/** One range of a content, or all of it; a range that does not end goes to its end (RFC 9110 §14.1.2). */
async function contentAnswer(medium: Medium, { media, extents }: Content, header: string | undefined): Promise<Response> {
  const size = totalLength(extents);
  const range = header === undefined ? { first: 0, last: size - 1 } : rangeOf(header, size);
  if (!range) return new Response(null, { status: 416, headers: { "Content-Range": `bytes */${size}` } });
  const file = await openMedium(medium);
  if (!file) return new Response("This medium is no longer there as it was.", { status: 410 });
  const source = extentsSource(readableParts(handleSource(file, medium.size, medium.name), medium.reader), extents);
  const { first, last } = range;
  let at = first;
  const stream = new ReadableStream<Uint8Array>(
    {
      async pull(controller) {
        try {
          const length = Math.min(PIECE, last + 1 - at);
          controller.enqueue(await source.read(at, length));
          at += length;
          if (at <= last) return;
          controller.close();
        } catch (cause) {
          controller.error(cause);
        }
        await file.close();
      },
      // A player that has enough, or is closed, reads no further.
      cancel: () => file.close(),
    },
    { highWaterMark: 1 },
  );
  return new Response(stream, {
    status: header === undefined ? 200 : 206,
    headers: {
      "Content-Type": media,
      "Content-Length": String(last - first + 1),
      "Accept-Ranges": "bytes",
      "Cache-Control": "no-store",
      ...(header !== undefined && { "Content-Range": `bytes ${first}-${last}/${size}` }),
    },
  });
}

function rangeOf(header: string, size: number): { first: number; last: number } | null {
  const parts = /^bytes=(\d{1,15})-(\d{1,15})?$/.exec(header);
  if (!parts) return null;
  const first = Number(parts[1]);
  const last = parts[2] === undefined ? size - 1 : Math.min(Number(parts[2]), size - 1);
  return first <= last ? { first, last } : null;
}

/** A medium whose bad places are zeros. */
function readableParts(source: ByteSource, reader: Medium["reader"]): ByteSource {
  if (!reader) return source;
  return {
    name: source.name,
    size: source.size,
    async read(offset, length) {
      if (await reader(offset, length)) return source.read(offset, length);
      const bytes = new Uint8Array(length);
      for (let at = offset; at < offset + length; ) {
        const part = Math.min(LEAST_READ - (at % LEAST_READ), offset + length - at);
        if (await reader(at, part)) bytes.set(await source.read(at, part), at - offset);
        at += part;
      }
      return bytes;
    },
  };
}
