import { database } from "../web/kept/database.ts";
import { newMedium } from "../web/kept/medium.ts";

/** A part that was found on a phone that is gone since. */
export async function foundPart(job: number): Promise<number> {
  const own = { kind: "partition", name: "Siskin 3, userdata", source: null, part: "userdata" } as const;
  const medium = await database.media.add(newMedium(job, own));
  await database.parts.put({
    medium,
    job,
    serial: "PRACTICE-01",
    phone: null,
    part: { kind: "partition", name: "userdata", path: "/dev/block/by-name/userdata" },
    name: own.name,
    size: 4096,
    members: [],
    place: null,
    status: "new",
    mark: { done: 0, hash: null, unreadable: [] },
    sha256: null,
    because: null,
  });
  return medium;
}

/** A place that takes nothing: its opening is waited for. */
export const hangingFile = () =>
  ({ kind: "file", handle: { createWritable: () => new Promise(() => {}) } as unknown as FileSystemFileHandle }) as const;
