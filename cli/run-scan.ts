import { createHash } from "node:crypto";
import type { Extent } from "../core/bytes/extents.ts";
import type { Sha256 } from "../core/bytes/hash.ts";
import { type PatientSource, patientSource } from "../core/bytes/patient-source.ts";
import { PlaceLedger } from "../core/bytes/place-ledger.ts";
import { UnusableError } from "../core/bytes/source.ts";
import type { Trouble } from "../core/bytes/trouble.ts";
import type { VolumeInfo } from "../core/filesystems/volume.ts";
import { applyPatch, type Find } from "../core/finds/find.ts";
import type { FoundRecord } from "../core/finds/record.ts";
import { scan } from "../core/scan/engine.ts";
import type { Depth, ScanEvent } from "../core/scan/events.ts";
import { recordsIn } from "../core/scan/row-records.ts";
import type { Scope } from "../core/scan/scope.ts";
import type { Mapping } from "../core/stores/mapping/mapping.ts";
import { SHIPPED } from "../core/stores/mapping/shipped.ts";
import { INTERRUPTED } from "./exit-status.ts";
import { openSource } from "./open-source.ts";

/** SHA-256 by Node itself: faster than the portable one. */
export function nodeSha256(): Sha256 {
  let hash = createHash("sha256");
  return {
    start() {
      hash = createHash("sha256");
    },
    update: (bytes) => void hash.update(bytes),
    digest: () => hash.digest("hex"),
  };
}

/** Milliseconds within which a second interrupt is the same one. */
const SAME_PRESS = 1000;

/** All that a scan found. */
export interface Scanned {
  readonly finds: Map<string, Find>;
  readonly volumes: readonly VolumeInfo[];
  readonly troubles: Trouble[];
  readonly unreadable: readonly Extent[];
  readonly bytes: number;
  readonly bytesRead: number;
  readonly seconds: number;
  /** Broken off by Ctrl-C. */
  readonly stopped: boolean;
  /** Broken off because the medium is gone: why, in plain words. */
  readonly failure: string | null;
}

export interface ScanRequest {
  readonly source: string;
  readonly depth: Depth;
  readonly kinds: Scope["kinds"];
  readonly "erased-only"?: boolean;
  readonly faults?: string;
  readonly passphrase?: string;
  /** How messengers that are known are read; without: those that are shipped. */
  readonly mappings?: readonly Mapping[];
  readonly onVolumes?: (volumes: readonly VolumeInfo[]) => void | Promise<void>;
  /** Takes what each batch told, as it comes. */
  readonly onBatch?: (event: Extract<ScanEvent, { type: "batch" }>, finds: ReadonlyMap<string, Find>) => void | Promise<void>;
  /** Takes rows and entries as they come: there may be millions, and nobody keeps them. */
  readonly onRecords?: (records: readonly FoundRecord[], finds: ReadonlyMap<string, Find>) => void | Promise<void>;
}

/** Opens a source, scans it to the end or to Ctrl-C, and hands what was found to `use` while the source is still open. */
export async function runScan<T>(request: ScanRequest, use: (scanned: Scanned, source: PatientSource) => Promise<T>): Promise<T> {
  const { source, close } = await openSource(request.source, request);
  const stop = new AbortController();
  // What the scan learns of bad places, who reads afterwards knows.
  const ledger = new PlaceLedger();
  let interruptedAt = 0;
  // One press may arrive twice (from the keyboard and from a parent); a later one does not wait for what is being written.
  const onInterrupt = () => {
    if (stop.signal.aborted && performance.now() - interruptedAt > SAME_PRESS) process.exit(INTERRUPTED);
    interruptedAt ||= performance.now();
    stop.abort();
  };
  process.on("SIGINT", onInterrupt);
  const started = performance.now();
  const finds = new Map<string, Find>();
  const troubles: Trouble[] = [];
  let volumes: readonly VolumeInfo[] | null = null;
  let unreadable: readonly Extent[] = [];
  let bytesRead = 0;
  let failure: string | null = null;
  try {
    for await (const event of scan(
      source,
      {
        depth: request.depth,
        kinds: request.kinds,
        erasedOnly: request["erased-only"] ?? false,
        sha256: nodeSha256(),
        ledger,
        now: () => performance.now(),
        mappings: request.mappings ?? SHIPPED,
      },
      stop.signal,
    )) {
      if (event.type === "volumes") {
        volumes = event.volumes;
        await request.onVolumes?.(volumes);
        continue;
      }
      for (const find of event.finds) finds.set(find.id, find);
      for (const patch of event.patches) {
        const find = finds.get(patch.id);
        if (find) finds.set(find.id, applyPatch(find, patch));
      }
      await request.onBatch?.(event, finds);
      if (request.onRecords) {
        const records = recordsIn(event);
        if (records.length > 0) await request.onRecords(records, finds);
      }
      troubles.push(...event.troubles);
      unreadable = event.unreadable;
      bytesRead = event.bytesRead;
      if (process.stderr.isTTY) {
        const { pass, done, total } = event.progress;
        process.stderr.write(`\r${pass} ${total > 0 ? Math.floor((100 * done) / total) : 0} %, ${finds.size} finds `);
      }
    }
  } catch (cause) {
    if (cause instanceof UnusableError && volumes !== null) failure = cause.message;
    else if (!stop.signal.aborted) {
      await close();
      throw cause;
    }
  } finally {
    if (process.stderr.isTTY) process.stderr.write("\n");
  }
  const seconds = (performance.now() - started) / 1000;
  try {
    return await use(
      {
        finds,
        volumes: volumes ?? [],
        troubles,
        unreadable,
        bytes: source.size,
        bytesRead,
        seconds,
        stopped: stop.signal.aborted,
        failure,
      },
      patientSource(source, { ledger }),
    );
  } finally {
    process.removeListener("SIGINT", onInterrupt);
    await close();
  }
}
