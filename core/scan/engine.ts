import { onMedium } from "../bytes/extents.ts";
import { patientSource, unreadableIn } from "../bytes/patient-source.ts";
import { RangeSet } from "../bytes/ranges.ts";
import type { ByteSource } from "../bytes/source.ts";
import { findVolumes } from "../filesystems/open-volumes.ts";
import type { Find } from "../finds/find.ts";
import { isOwnFile } from "../medium/own-files.ts";
import { Claims } from "./claims.ts";
import { DatabaseFinds } from "./database-finds.ts";
import type { Checkpoint, PassBatch, ScanEvent, ScanOptions } from "./events.ts";
import { hashContent, readThrough, withLost } from "./grade.ts";
import { listing, relist } from "./listing.ts";
import { LostPlaces } from "./lost-places.ts";
import { reconcile } from "./reconcile.ts";
import { readRecords } from "./records.ts";
import { freeRunsOf, Sweep } from "./sweep.ts";

/** What a scan that was broken off left: where it stood, and what it had found until then. */
export interface Resume {
  readonly checkpoint: Checkpoint;
  readonly known: AsyncIterable<Find> | Iterable<Find>;
}

/** Bytes from which on what a head claims is no small matter. */
const LARGE_CLAIM = 16 * 1024 * 1024;

/** Copies of shared storage are archives: only in one are there files of our own. */
const TAR = "tar archive";

const START: Checkpoint = { pass: "listing", at: 0 };

/**
 * Scans a source: listing, sweep (deep only), databases, reconcile. Pull-driven, so not pulling is a pause; stops within one
 * window when `signal` aborts (throws its reason). Every batch carries a checkpoint that a fresh process can go on from.
 * The same source and options give the same finds with the same ids.
 * @throws UnusableError for a source that cannot be worked on
 */
export async function* scan(raw: ByteSource, options: ScanOptions, signal: AbortSignal, resume?: Resume): AsyncGenerator<ScanEvent> {
  const source = patientSource(raw);
  const from = resume?.checkpoint ?? START;
  const finding = findVolumes(source, { search: options.depth === "deep" });
  let found = await finding.next();
  for (; !found.done; found = await finding.next()) {
    signal.throwIfAborted();
    yield {
      type: "batch",
      finds: [],
      patches: [],
      records: [],
      troubles: [],
      progress: { pass: "listing", ...found.value },
      checkpoint: from,
      unreadable: source.unreadable.list(),
      bytesRead: source.bytesRead,
    };
  }
  const medium = found.value;
  const runs = freeRunsOf(medium, source.size);
  yield {
    type: "volumes",
    volumes: medium.volumes.map(({ info }) => info),
    freeRuns: runs.map(({ offset, length }) => ({ offset, length })),
  };

  const claims = new Claims();
  const databases = new DatabaseFinds();
  const isOwn = ({ path, volume }: Find) => isOwnFile(path) && volume !== null && medium.volumes[volume]?.info.filesystem === TAR;
  const wanted = (find: Find) => (options.kinds === null || options.kinds.includes(find.kind)) && !isOwn(find);
  const places = new LostPlaces();
  /** Bytes that were hashed for finds of which nothing but a head and its claim is known. */
  const claimed = new RangeSet();
  const isWorthHashing = (find: Find): boolean => {
    if (find.checked || find.size <= LARGE_CLAIM || find.evidence[0]?.pass !== "sweep") return true;
    const stretches = onMedium(find.extents);
    const known = stretches.reduce((sum, { offset, length }) => sum + claimed.overlap(offset, length), 0);
    for (const { offset, length } of stretches) claimed.add(offset, length);
    // Several heads that claim the same space: at most one of them is right, and each would cost all of it.
    return known * 2 <= find.size;
  };
  /** A find with what its bytes tell when they are read: present files that nothing walks too, so that a dead place in them is told here and not at hand-over. */
  const readOf = async (find: Find): Promise<Find> => {
    if (options.sha256 && find.extents.length > 0 && isWorthHashing(find))
      find.sha256 = await hashContent(source, find.extents, options.sha256);
    else if (options.depth === "deep" && find.state !== "erased" && !find.checked) await readThrough(source, find.extents);
    const lost = unreadableIn(source, find.extents);
    const held = withLost(find, lost);
    places.note(held, lost);
    return held;
  };
  const event = async (batch: PassBatch, pass: Checkpoint["pass"]): Promise<ScanEvent> => {
    const finds: Find[] = [];
    for (const find of batch.finds) databases.note(find);
    for (const patch of batch.patches) databases.patch(patch);
    for (const find of batch.finds.filter(wanted)) finds.push(await readOf(find));
    return {
      type: "batch",
      finds,
      patches: batch.patches,
      records: batch.records ?? [],
      troubles: batch.troubles,
      progress: { pass, done: batch.done, total: batch.total },
      checkpoint: { pass, at: batch.at },
      unreadable: source.unreadable.list(),
      bytesRead: source.bytesRead,
    };
  };
  const nothing: PassBatch = { finds: [], patches: [], troubles: [], done: 0, total: 0, at: 0 };

  if (from.pass === "listing") {
    yield event(
      { ...nothing, troubles: [...(raw.troubles ?? []), ...medium.troubles, ...medium.volumes.flatMap(({ troubles }) => troubles)] },
      "listing",
    );
    for await (const batch of listing(medium.volumes, source, claims, options.depth)) {
      signal.throwIfAborted();
      yield event(batch, "listing");
    }
  } else {
    for await (const find of resume?.known ?? []) {
      claims.add(find);
      databases.note(find);
      places.note(find, 0);
    }
    await relist(medium.volumes, claims);
  }
  if (options.depth === "deep" && (from.pass === "listing" || from.pass === "sweep")) {
    // What is in use but led to by nothing is known only after the lists: it is searched too.
    for await (const batch of new Sweep(source, freeRunsOf(medium, source.size), claims).run(from.pass === "sweep" ? from.at : 0)) {
      signal.throwIfAborted();
      yield event(batch, "sweep");
    }
  }
  if (from.pass !== "reconcile" && from.pass !== "done")
    for await (const batch of readRecords(databases, source, signal)) {
      signal.throwIfAborted();
      yield event(batch, "databases");
    }
  signal.throwIfAborted();
  yield event({ ...nothing, patches: [...places.patches(source.unreadable), ...reconcile(claims)] }, "done");
}
