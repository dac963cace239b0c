import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import { z } from "zod";
import { nodeSha256 } from "../cli/run-scan.ts";
import { memorySource } from "../core/bytes/memory-source.ts";
import type { ByteSource } from "../core/bytes/source.ts";
import type { Trouble } from "../core/bytes/trouble.ts";
import { applyPatch, type Find } from "../core/finds/find.ts";
import type { FoundRecord } from "../core/finds/record.ts";
import { type Resume, scan } from "../core/scan/engine.ts";
import type { Depth, ScanEvent, ScanOptions } from "../core/scan/events.ts";
import { recordsIn } from "../core/scan/row-records.ts";

/** What a scan left when it ended, or when it was broken off after `batches` of them. */
export interface Outcome {
  readonly finds: Map<string, Find>;
  /** Finds of other kinds than were asked for. */
  readonly besides: Map<string, Find>;
  readonly troubles: Trouble[];
  readonly records: FoundRecord[];
  readonly last: Extract<ScanEvent, { type: "batch" }>;
  readonly batches: number;
  readonly ended: boolean;
}

/** Scans a source as any front of Jubar does: finds put by their id, patches laid over them. */
export async function scanned(
  source: ByteSource,
  {
    depth = "deep",
    stopAfter = Number.POSITIVE_INFINITY,
    resume,
    hashed = true,
    kinds = null,
  }: { depth?: Depth; stopAfter?: number; resume?: Outcome; hashed?: boolean; kinds?: ScanOptions["kinds"] } = {},
): Promise<Outcome> {
  const finds = new Map(resume?.finds);
  const troubles: Trouble[] = [...(resume?.troubles ?? [])];
  const records: FoundRecord[] = [...(resume?.records ?? [])];
  let last = resume?.last;
  let batches = 0;
  const besides = new Map(resume?.besides);
  const from: Resume | undefined = resume && { checkpoint: resume.last.checkpoint, known: [...resume.finds.values()] };
  const options = { depth, kinds, erasedOnly: false, ...(hashed && { sha256: nodeSha256() }) };
  for await (const event of scan(source, options, new AbortController().signal, from)) {
    if (event.type === "volumes") continue;
    for (const find of event.finds) finds.set(find.id, find);
    for (const find of event.besides) besides.set(find.id, find);
    for (const patch of event.patches) {
      const find = finds.get(patch.id);
      if (find) finds.set(find.id, applyPatch(find, patch));
    }
    troubles.push(...event.troubles);
    records.push(...recordsIn(event));
    last = event;
    if (++batches >= stopAfter) break;
  }
  if (!last) throw new Error("the scan told nothing");
  return { finds, besides, troubles, records, last, batches, ended: last.checkpoint.pass === "done" };
}

export const hashOf = (bytes: Uint8Array): string => createHash("sha256").update(bytes).digest("hex");

/** The practice card, and what was really on it. */
const Truth = z.object({
  card: z.object({ bytes: z.number(), sha256: z.string() }),
  files: z.array(
    z.object({
      path: z.string(),
      state: z.enum(["present", "binned", "erased"]),
      size: z.number(),
      sha256: z.string(),
      inOneRun: z.boolean(),
    }),
  ),
});
export type Truth = z.infer<typeof Truth>;
export const practiceTruth = (): Truth => Truth.parse(JSON.parse(readFileSync("demo/theatre-card.truth.json", "utf8")));
let unpacked: Uint8Array | null = null;
/** The practice card's bytes: one's own, to be changed at will. */
export function practiceBytes(): Uint8Array {
  unpacked ??= new Uint8Array(gunzipSync(readFileSync("demo/theatre-card.img.gz")));
  return unpacked.slice();
}
export const practiceCard = (): ByteSource => memorySource(practiceBytes(), "theatre-card.img");
