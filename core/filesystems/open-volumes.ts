import type { PatientSource } from "../bytes/patient-source.ts";
import { UnusableError } from "../bytes/source.ts";
import type { Trouble } from "../bytes/trouble.ts";
import { readPartitions } from "../medium/partitions.ts";
import type { Volume } from "../medium/volume.ts";
import { openExfat } from "./exfat/exfat-volume.ts";
import { openExt4 } from "./ext4/ext4-volume.ts";
import { openF2fs } from "./f2fs/f2fs-volume.ts";
import { openFat } from "./fat/fat-volume.ts";
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

/** Finds the volumes of a medium. @throws UnusableError for an empty source, or one that is plainly no disk image */
export async function openVolumes(source: PatientSource): Promise<Medium> {
  const { partitions, troubles } = await readPartitions(source);
  const volumes: Volume[] = [];
  for (const { start, length } of partitions) {
    let volume: Volume | null = null;
    for (const open of OPENERS) {
      volume ??= await open(source, start, length, volumes.length);
    }
    if (volume) volumes.push(volume);
    else troubles.push({ what: "no file system that can be read begins here: only its content can be searched", at: start, length });
  }
  if (volumes.length === 0 && source.size < SMALLEST_MEDIUM)
    throw new UnusableError(
      `${source.name} is no disk image: it holds no partition table and no file system, and at ${source.size} bytes it is too small for one.`,
    );
  return { volumes, troubles };
}
