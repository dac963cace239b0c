import type { PatientSource } from "../bytes/patient-source.ts";
import { UnusableError } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";
import { readPartitions } from "../medium/partitions.ts";
import type { Volume } from "../medium/volume.ts";
import { openEncrypted } from "./encrypted/encrypted-volume.ts";
import { openExfat } from "./exfat/exfat-volume.ts";
import { openExt4 } from "./ext4/ext4-volume.ts";
import { openF2fs } from "./f2fs/f2fs-volume.ts";
import { openFat } from "./fat/fat-volume.ts";
import { searchStarts, usualStarts } from "./search.ts";
import { openTar } from "./tar/tar-volume.ts";

/** Opens a volume of one kind at a place, or answers null. Adding a file system is adding its line here. */
type Opener = (source: PatientSource, start: number, length: number, index: number) => Promise<Volume | null>;
const OPENERS: readonly Opener[] = [openExfat, openFat, openExt4, openF2fs, openTar];

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
  for (const open of OPENERS) {
    const volume = await open(source, start, length, index);
    if (volume) return volume;
  }
  return null;
}

/**
 * Finds the volumes of a medium: those of its partition table, and what lies where the table says nothing or nothing opens.
 * `search`: such stretches are read through for boot sectors and superblocks; else only the usual places are looked at.
 * @throws UnusableError for an empty source, or one that is plainly no disk image
 */
export async function openVolumes(source: PatientSource, { search = false } = {}): Promise<Medium> {
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
  for (const stretch of unexplained) {
    const found = await lookInto(source, stretch, volumes, search);
    troubles.push(...found);
  }
  if (volumes.length === 0 && source.size < SMALLEST_MEDIUM)
    throw new UnusableError(
      `${source.name} is no disk image: it holds no partition table and no file system, and at ${source.size} bytes it is too small for one.`,
    );
  return { volumes, troubles };
}

/** Volumes in a stretch that the partition table does not explain, put to the others. @returns what is to be said of it */
async function lookInto(source: PatientSource, { start, length, isGap }: Stretch, volumes: Volume[], search: boolean): Promise<Trouble[]> {
  const troubles: Trouble[] = [];
  const end = start + length;
  const before = volumes.length;
  let busyTo = start;
  const tryAt = async (at: number) => {
    if (at < busyTo) return;
    const volume = await openAt(source, at, end - at, volumes.length);
    if (!volume) return;
    volumes.push(volume);
    busyTo = at + volume.info.length;
    troubles.push({ what: `a volume (${volume.info.filesystem}) begins where no partition table says so`, at, length: volume.info.length });
  };
  for (const at of usualStarts(start, length)) await tryAt(at);
  if (volumes.length > before) return troubles;
  const encrypted = await openEncrypted(source, start, length, volumes.length);
  if (encrypted) {
    volumes.push(encrypted);
    return troubles;
  }
  if (search) for await (const at of searchStarts(source, start, length)) await tryAt(at);
  if (volumes.length === before && !isGap)
    troubles.push({ what: "no file system that can be read begins here: only its content can be searched", at: start, length });
  return troubles;
}
