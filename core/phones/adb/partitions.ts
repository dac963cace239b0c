import type { Adb } from "@yume-chan/adb";
import { UnusableError } from "../../bytes/source.ts";
import { asReader, PhoneFileSource, type Reader } from "./phone-file-source.ts";
import { quoted, runOnPhone } from "./shell.ts";

/** A raw partition of a phone. Sizes in bytes. */
export interface Partition {
  readonly name: string;
  readonly path: string;
  readonly size: number;
}

/** Places where the kernel names partitions; makers differ. */
const FOLDERS = ["/dev/block/by-name", "/dev/block/bootdevice/by-name"] as const;
const MAX_PARTITIONS = 200;
/** What a partition's name may be made of: it is put into a command. */
const NAME = /^[\w.-]{1,64}$/;

/** Takes elevated access, which the phone may ask its owner about. @returns whether it was given */
export async function takeElevatedAccess(adb: Adb): Promise<boolean> {
  return /\buid=0\b/.test((await runOnPhone(adb, "su -c id")).out);
}

/** Lists raw partitions with their sizes; those whose size is not told are left out. */
export async function partitionsOf(adb: Adb, reader: Reader): Promise<Partition[]> {
  for (const folder of FOLDERS) {
    const { out, status } = await runOnPhone(adb, asReader(reader, `ls ${folder}`));
    const names = status === 0 || status === null ? out.split(/\s+/).filter((name) => NAME.test(name)) : [];
    const partitions: Partition[] = [];
    for (const name of names.slice(0, MAX_PARTITIONS)) {
      const path = `${folder}/${name}`;
      const { out: told } = await runOnPhone(adb, asReader(reader, `blockdev --getsize64 ${quoted(path)}`));
      const size = Number(told.trim());
      if (Number.isSafeInteger(size) && size > 0) partitions.push({ name, path, size });
    }
    if (partitions.length > 0) return partitions;
  }
  return [];
}

/** A partition as a source. @throws UnusableError when it is not the size it was listed with */
export function partitionSource(adb: Adb, { path, size, name }: Partition, reader: Reader): PhoneFileSource {
  if (size <= 0) throw new UnusableError(`${name} is empty.`);
  return new PhoneFileSource(adb, path, size, reader, name);
}
