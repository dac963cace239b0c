import type { PatientSource } from "../bytes/patient-source.ts";
import { UnusableError } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";
import { readPartitions } from "../medium/partitions.ts";
import { openEncrypted } from "./encrypted/encrypted-volume.ts";
import { isPlainText } from "./plain-text.ts";
import { searchStarts, usualStarts } from "./search.ts";
import { FILE_SYSTEMS } from "./table.ts";
import type { Volume } from "./volume.ts";

/** A medium with what could be opened of it. Stretches of it that no volume explains are still swept. */
export interface Medium {
  readonly volumes: Volume[];
  readonly troubles: Trouble[];
}

/** Below this, a source without any file system is no image of a medium: the smallest floppy is larger. */
const SMALLEST_MEDIUM = 64 * 1024;
/** Stretches smaller than this are not searched for volumes: the gap before a first partition. */
const SMALLEST_GAP = 256 * 1024;

/** A stretch that no volume explains: a partition that nothing opens, or a gap between partitions. */
interface Stretch {
  readonly start: number;
  readonly length: number;
  readonly isGap: boolean;
}

async function openAt(source: PatientSource, start: number, length: number, index: number): Promise<Volume | null> {
  for (const open of FILE_SYSTEMS) {
    const volume = await open(source, start, length, index);
    if (volume) return volume;
  }
  return null;
}

/** How far the search got: stretches that are done with, the byte in the one under way, and start and length of each volume it found. */
export interface SearchState {
  readonly stretches: number;
  readonly at: number;
  readonly found: readonly (readonly [number, number])[];
}

/** How far a stretch was read through, in bytes, and where to go on. */
export interface Searched {
  readonly done: number;
  readonly total: number;
  readonly state: SearchState;
}

const NOTHING_SEARCHED: SearchState = { stretches: 0, at: 0, found: [] };

/** Finds the volumes of a medium, all at once. @throws UnusableError as `findVolumes` does */
export async function openVolumes(source: PatientSource, options?: { search: boolean }): Promise<Medium> {
  const finding = findVolumes(source, options);
  let step = await finding.next();
  while (!step.done) step = await finding.next();
  return step.value;
}

/**
 * Finds the volumes of a medium: those of its partition table, and what lies where the table says nothing or nothing opens.
 * `search`: such stretches are read through for boot sectors and superblocks, which tells how far it is; else only the usual
 * places are looked at. `from`: what an earlier search told; it is not searched again.
 * @throws UnusableError for an empty source, or one that is plainly no disk image
 */
export async function* findVolumes(
  source: PatientSource,
  { search = false, from = NOTHING_SEARCHED }: { search?: boolean; from?: SearchState } = {},
): AsyncGenerator<Searched, Medium & { readonly search: SearchState }> {
  const { partitions, troubles } = await readPartitions(source);
  const volumes: Volume[] = [];
  const unexplained: Stretch[] = [];
  const inOrder = [...partitions].sort((a, b) => a.start - b.start);
  let covered = 0;
  for (const { start, length } of inOrder) {
    if (start - covered >= SMALLEST_GAP) unexplained.push({ start: covered, length: start - covered, isGap: true });
    covered = Math.max(covered, start + length);
    const volume = await openAt(source, start, length, volumes.length);
    if (volume) volumes.push(volume);
    else unexplained.push({ start, length, isGap: false });
  }
  if (source.size - covered >= SMALLEST_GAP) unexplained.push({ start: covered, length: source.size - covered, isGap: true });
  const found: [number, number][] = [];
  for (const [number, stretch] of unexplained.entries()) {
    const { start, length, isGap } = stretch;
    const before = volumes.length;
    await lookAround(source, stretch, volumes, troubles);
    if (volumes.length === before && search)
      for await (const searchedTo of lookThrough(source, stretch, { volumes, troubles, found }, number, from))
        yield {
          done: searchedTo - start,
          total: length,
          state: { stretches: number + (searchedTo < start + length ? 0 : 1), at: searchedTo, found: [...found] },
        };
    if (volumes.length === before && !isGap)
      troubles.push({ what: "no file system that can be read begins here: only its content can be searched", at: start, length });
  }
  if (volumes.length === 0 && source.size < SMALLEST_MEDIUM)
    throw new UnusableError(
      `${source.name} is no disk image: it holds no partition table and no file system, and at ${source.size} bytes it is too small for one.`,
    );
  if (volumes.length === 0 && (await isPlainText(source).catch(() => false)))
    throw new UnusableError(`${source.name} is no disk image: it is a text from its beginning to its end.`);
  return { volumes, troubles, search: { stretches: search ? unexplained.length : 0, at: 0, found } };
}

/** Opens a volume that no table tells of, at a place of a stretch. @returns the byte behind it, or null */
async function tryAt(source: PatientSource, at: number, end: number, volumes: Volume[], troubles: Trouble[]): Promise<number | null> {
  const volume = await openAt(source, at, end - at, volumes.length);
  if (!volume) return null;
  volumes.push(volume);
  troubles.push({ what: `a volume (${volume.info.filesystem}) begins where no partition table says so`, at, length: volume.info.length });
  return at + volume.info.length;
}

/** A stretch that the partition table does not explain: a volume at a usual place, or encrypted as a whole. */
async function lookAround(source: PatientSource, { start, length }: Stretch, volumes: Volume[], troubles: Trouble[]): Promise<void> {
  const before = volumes.length;
  let busyTo = start;
  for (const at of usualStarts(start, length))
    if (at >= busyTo) busyTo = (await tryAt(source, at, start + length, volumes, troubles)) ?? busyTo;
  if (volumes.length > before) return;
  const encrypted = await openEncrypted(source, start, length, volumes.length);
  if (encrypted) volumes.push(encrypted);
}

/** Reads a stretch through for beginnings of volumes, or goes on with that: what was found before is opened again where it lies. */
async function* lookThrough(
  source: PatientSource,
  { start, length }: Stretch,
  { volumes, troubles, found }: { volumes: Volume[]; troubles: Trouble[]; found: [number, number][] },
  number: number,
  from: SearchState,
): AsyncGenerator<number> {
  let busyTo = start;
  const end = start + length;
  const look = async (at: number) => {
    const behind = at < busyTo ? null : await tryAt(source, at, end, volumes, troubles);
    if (behind === null) return;
    found.push([at, behind - at]);
    busyTo = behind;
  };
  if (number <= from.stretches) for (const [at] of from.found) if (at >= start && at < end) await look(at);
  if (number < from.stretches) return;
  const goOn = number === from.stretches && from.at >= start && from.at < end ? from.at : start;
  for await (const { starts, searchedTo } of searchStarts(source, start, length, goOn)) {
    for (const at of starts) await look(at);
    yield searchedTo;
  }
}
