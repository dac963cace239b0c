import { createReadStream, createWriteStream } from "node:fs";
import { mkdir, readFile, rename, stat } from "node:fs/promises";
import { dirname, join } from "node:path";
import { pipeline } from "node:stream/promises";
import { createGunzip } from "node:zlib";
import { z } from "zod";
import { Fault } from "../core/bytes/faulty-source.ts";
import { flakyReader } from "../standins/flaky-reader.ts";
import type { Medium } from "./media.ts";

/** Practice media as a folder describes them: packed images, and the ticket that comes with each. */
const Practice = z.array(
  z.object({
    id: z.string().regex(/^[a-z0-9-]+$/),
    name: z.string(),
    packed: z.string().regex(/^[\w.-]+\.gz$/),
    note: z.string(),
    /** Places that read badly: a worn card, for practice. */
    faults: z.array(Fault).default([]),
    ticket: z.object({ customer: z.string(), device: z.string(), wants: z.string() }).nullable(),
  }),
);

/** Unpacked once, into a folder `cache` beside the packed image. */
async function unpack(packed: string, name: string): Promise<string> {
  const cache = join(dirname(packed), "cache");
  const path = join(cache, name);
  const [was, is] = await Promise.all([stat(path).catch(() => null), stat(packed)]);
  if (was && was.mtimeMs >= is.mtimeMs) return path;
  await mkdir(cache, { recursive: true });
  // Renamed when it is whole: a broken-off unpacking leaves nothing that looks like a card.
  const part = `${path}.${process.pid}.part`;
  await pipeline(createReadStream(packed), createGunzip(), createWriteStream(part));
  await rename(part, path);
  return path;
}

/** Reads a list of practice media and makes them ready to be given out. */
export async function practiceMedia(listPath: string): Promise<Medium[]> {
  const list = Practice.parse(JSON.parse(await readFile(listPath, "utf8")));
  return Promise.all(
    list.map(async ({ packed, faults, ...medium }) => {
      const path = await unpack(join(dirname(listPath), packed), medium.name);
      return { ...medium, path, size: (await stat(path)).size, reader: faults.length > 0 ? flakyReader(faults) : null };
    }),
  );
}
