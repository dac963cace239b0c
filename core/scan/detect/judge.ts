import type { ListedFile, Volume } from "../../filesystems/volume.ts";
import type { Find, Patch } from "../../finds/find.ts";
import { byPlace, judgeErased, type Placed } from "../listing.ts";
import type { Recollection } from "../recollection.ts";
import type { Bench } from "./detector.ts";

const erasedOf = (files: readonly ListedFile[], volume: Volume | null): Placed[] =>
  files.filter((file) => file.erased).map((file) => ({ file, volume }));

/** What erased entries that free space still holds are: finds, or more of such that are known. */
export async function judgeFound(
  files: readonly ListedFile[],
  volume: Volume | null,
  { claims, source }: Bench,
): Promise<{ finds: Find[]; patches: Patch[] }> {
  const finds: Find[] = [];
  const patches: Patch[] = [];
  for (const group of byPlace(erasedOf(files, volume))) {
    const judged = await judgeErased(group, claims, source, "deep");
    finds.push(...judged.finds);
    patches.push(...judged.patches);
  }
  return { finds, patches };
}

/** Entries that were judged before a break: nothing is read for them. */
export function recallFound(files: readonly ListedFile[], volume: Volume | null, before: Recollection): void {
  for (const [{ file }] of byPlace(erasedOf(files, volume))) before.judged(file);
}
