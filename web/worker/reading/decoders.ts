import { type Remote, transfer } from "comlink";
import type { ByteSource } from "../../../core/bytes/source.ts";
import { BoundWorker, started } from "../looking/bound-worker.ts";
import type { DecodeDesk } from "../looking/decode-desk.ts";

/** Larger contents are not read into memory: they would not fit beside the others. */
export const MOST_BYTES = 64 * 1024 * 1024;

/** Where what people give is decoded: ended when it takes too long. */
export const decoders = new BoundWorker(() =>
  started<DecodeDesk>(() => new Worker(new URL("../looking/decode.worker.ts", import.meta.url), { type: "module" })),
);

/** Has a content decoded there, all of it: its bytes are read here and handed over. */
export async function decoded<R>(content: ByteSource, task: (desk: Remote<DecodeDesk>, bytes: Uint8Array) => Promise<R>): Promise<R> {
  // A copy: what is read may be a view of what others look at.
  const bytes = (await content.read(0, content.size)).slice();
  return decoders.run((desk) => task(desk, transfer(bytes, [bytes.buffer])));
}
