import { BoundWorker, started } from "../looking/bound-worker.ts";
import type { DecodeDesk } from "../looking/decode-desk.ts";

/** Where what people give is decoded: ended when it takes too long. */
export const decoders = new BoundWorker(() =>
  started<DecodeDesk>(() => new Worker(new URL("../looking/decode.worker.ts", import.meta.url), { type: "module" })),
);
