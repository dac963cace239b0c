import type { Adb } from "@yume-chan/adb";
import { memorySource } from "../../../core/bytes/memory-source.ts";
import { type ByteSource, UnusableError } from "../../../core/bytes/source.ts";
import { tarSource } from "../../../core/filesystems/tar/tar-source.ts";
import { partitionSource } from "../../../core/phones/adb/partitions.ts";
import type { Reader } from "../../../core/phones/adb/phone-file-source.ts";
import { listShared, sharedFileSource } from "../../../core/phones/adb/shared-storage.ts";
import type { KeptPart, Member } from "../../kept/part.ts";

export interface SharedPart {
  readonly members: Member[];
  readonly troubles: readonly string[];
}

/** Lists the shared storage: the members of the archive that a copy of it is. In copies of before what the system's own providers told is among them. */
export async function sharedPart(adb: Adb, progress: (files: number) => void, signal: AbortSignal): Promise<SharedPart> {
  const { files, troubles } = await listShared(adb, progress, { signal });
  return { members: files.map(({ path, size, modified }) => ({ path: path.slice(1), size, modified })), troubles };
}

/** What a record tells of, as a source over a connection. @throws UnusableError when the phone does not have it any more */
export function sourceOf(
  { part, name, size, members }: Pick<KeptPart, "part" | "name" | "size" | "members">,
  adb: Adb,
  reader: Reader,
): ByteSource {
  if (part.kind === "partition") return partitionSource(adb, { name: part.name, path: part.path, size }, reader);
  return tarSource(
    name,
    members.map((member) => ({ ...member, content: contentOf(member, adb) })),
  );
}

const contentOf = (member: Member, adb: Adb): ByteSource =>
  member.text === undefined
    ? sharedFileSource(adb, { ...member, path: `/${member.path}` })
    : memorySource(new TextEncoder().encode(member.text), member.path);

/** The same source, asked for anew at every read: it goes on when the phone was away and is back. */
export function lastingSource(name: string, size: number, open: () => ByteSource | null): ByteSource {
  return {
    name,
    size,
    async read(offset, length) {
      const source = open();
      if (!source) throw new UnusableError(`${name} cannot be read now: look at the cable and at the phone's mode, then go on.`);
      return source.read(offset, length);
    },
  };
}
