import { totalLength } from "../bytes/extents.ts";
import type { PatientSource } from "../bytes/patient-source.ts";
import type { ListedFile, Volume } from "../filesystems/volume.ts";
import { binnedName } from "../finds/bins.ts";
import type { Evidence, Find, Patch } from "../finds/find.ts";
import type { Asked } from "./checkpoint.ts";
import { type Claims, idOf, keyOf } from "./claims.ts";
import type { Depth, PassBatch } from "./events.ts";
import { findOf } from "./listed-find.ts";
import type { Recollection } from "./recollection.ts";

/** What is handed on at once: so many finds, or as many as may have cost so many bytes of reading. What a break costs is no more than that. */
const BATCH = { finds: 16, bytes: 1024 * 1024 };

/** A file with the volume that lists it. */
export interface Placed {
  readonly file: ListedFile;
  /** Null: it lies outside of all volumes, where one was once. */
  readonly volume: Volume | null;
}

/**
 * Listing: what the lists of all volumes still know. Present files come first; the erased ones are judged when all
 * present ones are known, since an erased entry may only be the former name of a file that was moved.
 * `judged`: files and groups of erased entries that were judged before a break: they are listed, and not looked at again; nor is what a narrower
 * scan told.
 */
export async function* listing(
  volumes: readonly Volume[],
  source: PatientSource,
  claims: Claims,
  asked: Asked,
  judged: number,
  before: Recollection,
): AsyncGenerator<PassBatch> {
  const erased: Placed[] = [];
  let done = 0;
  let total = 0;
  let at = 0;
  const batch = (finds: Find[], more: Partial<PassBatch> = {}): PassBatch => ({
    finds,
    patches: [],
    troubles: [],
    done,
    total,
    at: Math.max(at, judged),
    ...more,
  });
  for (const volume of volumes) {
    for await (const { files, troubles, spoiled = [] } of volume.list()) {
      if (troubles.length > 0) yield batch([], { troubles });
      total += files.reduce((sum, file) => sum + weightOf(file), 0);
      let finds: Find[] = [];
      let handedOn = done;
      for (const file of files) {
        if (file.erased) {
          erased.push({ file, volume });
          continue;
        }
        claims.notePresent(file);
        if (++at > judged && !before.hasTold(idOf(file))) {
          const [find, ...inner] = await findOf(file, volume, source, asked.depth, asked);
          finds.push(before.withLearned(find), ...inner);
        }
        done += weightOf(file);
        if (finds.length === 0 || (finds.length < BATCH.finds && done - handedOn < BATCH.bytes)) continue;
        yield batch(finds);
        finds = [];
        handedOn = done;
      }
      if (finds.length > 0) yield batch(finds);
      if (spoiled.length > 0)
        yield batch([], {
          patches: spoiled.map(({ at: place, because }) => ({
            id: idOf({ at: place }),
            condition: "damaged",
            because,
            evidence: [{ pass: "listing", what: because, at: place }],
          })),
        });
    }
  }
  for (const group of byPlace(erased)) {
    // Of what a narrower scan told, entries speak that led to files it left: those are judged once more.
    const isDue = ++at > judged && !(before.isRest && before.judged(group[0].file));
    const told = isDue ? await judgeErased(group, claims, source, asked.depth) : null;
    if (!told) before.judged(group[0].file);
    done += group.reduce((sum, { file }) => sum + weightOf(file), 0);
    if (told) yield batch(told.finds, { patches: told.patches });
  }
}

/** Walks the lists without judging anything: what a scan that goes on must know of them again. */
export async function relist(volumes: readonly Volume[], claims: Claims, before: Recollection): Promise<void> {
  const erased: Placed[] = [];
  for (const volume of volumes)
    for await (const { files } of volume.list())
      for (const file of files) {
        if (file.erased) erased.push({ file, volume });
        else claims.notePresent(file);
      }
  for (const [{ file }] of byPlace(erased)) before.judged(file);
}

/** Bytes that judging a file may read. */
const weightOf = (file: ListedFile): number => (file.placements[0] ? totalLength(file.placements[0].extents) : 0);

/** Erased entries of one place and size speak of one thing. The entry that knows most comes first in each group. */
export function byPlace(entries: readonly Placed[]): [Placed, ...Placed[]][] {
  const groups = new Map<string, [Placed, ...Placed[]]>();
  for (const entry of entries) {
    const key = keyOf(entry.file);
    const group = groups.get(key);
    if (group) group.push(entry);
    else groups.set(key, [entry]);
  }
  for (const group of groups.values()) group.sort(byWorth);
  return [...groups.values()];
}

/** A whole name, the name it was binned under (its last one), a known folder, the later place. */
function byWorth(a: Placed, b: Placed): number {
  const lost = ({ file }: Placed) => file.traces.length - 1;
  const binned = ({ file }: Placed) => Number(file.name !== null && binnedName(file.name) !== null);
  return lost(a) - lost(b) || binned(b) - binned(a) || Number(a.file.path === null) - Number(b.file.path === null) || b.file.at - a.file.at;
}

/** What a group of erased entries is: further evidence of a find that is known, or a find of its own. */
export async function judgeErased(
  group: readonly [Placed, ...Placed[]],
  claims: Claims,
  source: PatientSource,
  depth: Depth,
): Promise<{ finds: Find[]; patches: Patch[] }> {
  const [{ file, volume }, ...others] = group;
  const evidenceOf = (files: readonly Placed[], words: string): Evidence[] =>
    files.map(({ file: one }) => ({ pass: "listing", what: `${words} ${one.path ?? one.name}`, at: one.at }));
  const spoken = claims.spokenOf(file);
  if (spoken?.id === idOf(file)) return { finds: [], patches: [] };
  if (spoken)
    return {
      finds: [],
      patches: [{ id: spoken.id, evidence: evidenceOf(group, spoken.moved ? "it was here before:" : "another erased entry names it") }],
    };
  const [find, ...inner] = await findOf(file, volume, source, depth);
  const unchanged = file.earlierOf === undefined ? null : await claims.present.sameAs(source, find.extents, file.earlierOf);
  if (unchanged !== null)
    return {
      finds: [],
      patches: [{ id: idOf({ at: unchanged }), evidence: evidenceOf(group, "an earlier record of it tells the same:") }],
    };
  find.evidence.push(...evidenceOf(others, "another erased entry names it"));
  const begins = find.extents[0]?.offset;
  const twin = begins === undefined ? undefined : find.checked ? claims.startingAt(begins) : claims.contentAt(begins, find.size);
  if (twin !== undefined && (find.condition !== "remnant" || !find.checked)) {
    claims.noteTwin(file, twin);
    return {
      finds: [],
      patches: [{ id: twin, evidence: find.evidence, entry: { name: find.name, path: find.path, modified: find.modified } }],
    };
  }
  claims.noteErased(file, find.id);
  claims.add(find);
  return { finds: [find, ...inner], patches: [] };
}
