import type { PatientSource } from "../bytes/patient-source.ts";
import { openExfat } from "./exfat/exfat-volume.ts";
import { openExt4 } from "./ext4/ext4-volume.ts";
import { openF2fs } from "./f2fs/open-f2fs.ts";
import { openFat } from "./fat/fat-volume.ts";
import { openTar } from "./tar/tar-volume.ts";
import type { Volume } from "./volume.ts";

/** Opens a volume of one kind that begins at `start` and may go on for `length` bytes, as the medium's volume number `index`; null: none does. */
export type OpenVolume = (source: PatientSource, start: number, length: number, index: number) => Promise<Volume | null>;

/** Every file system that is read, in the order in which they are asked. Adding one is adding its folder and its line here. */
export const FILE_SYSTEMS: readonly OpenVolume[] = [openExfat, openFat, openExt4, openF2fs, openTar];
