import type { FollowedType } from "../../filetypes/file-type.ts";
import { goesOnAt, text } from "../../filetypes/followed/text.ts";
import { FILE_TYPES, HEAD_BYTES, typeOfHead } from "../../filetypes/table.ts";
import type { Find } from "../../finds/find.ts";
import { isDatabase } from "../database-finds.ts";
import { followedFind, type Told } from "../followed-find.ts";
import { type Detector, type MakeDetector, marksOf, NOTHING_SEEN, type Sector, type Seen } from "./detector.ts";

const NAME = "followed";

/** A database that the sweep found by its beginning. */
export const isSweptDatabase = (find: Find): boolean => isDatabase(find) && find.evidence[0]?.pass === "sweep";

/** Contents that say themselves how long they are: nothing in them is checked, so that where they begin matters more. */
export const followedContents: MakeDetector = ({ source, claims, space, databases, former }): Detector => {
  const note = ({ find }: Told) => {
    if (find && isSweptDatabase(find)) for (const { offset, length } of find.extents) databases.add(offset, length);
  };
  const seenOf = ({ find, patch }: Told, busyTo: number): Seen => ({
    ...NOTHING_SEEN,
    finds: find ? [find] : [],
    patches: patch ? [patch] : [],
    busyTo,
  });
  const follow = async (type: FollowedType, index: number, at: number, which: "all" | "only to its end" = "all"): Promise<Told> => {
    const told = await followedFind(type, source, claims, space.from(index, at), space.runs[index].volume?.info.index ?? null, which);
    note(told);
    return told;
  };

  /**
   * Where files of the present volume cannot begin: what is no chance, stands in nothing that is known and comes to an end of its own is told
   * at once; all else when it is known whether a former volume's files began there.
   */
  async function offGrid(type: FollowedType, { index, at }: Sector): Promise<Seen> {
    if (type.byChance || claims.holderOf(at) !== null) return { ...NOTHING_SEEN, keep: true };
    const told = await follow(type, index, at, "only to its end");
    return told.ends ? seenOf(told, 0) : { ...NOTHING_SEEN, keep: true };
  }

  async function look(sector: Sector): Promise<Seen> {
    const { index, at, bytes, within, type } = sector;
    if (type?.reach !== "followed" || claims.proven.overlap(at, 1) > 0) return NOTHING_SEEN;
    // Text is known by its look alone: where a record speaks of these bytes, or text stands before, it is a part of that.
    if (type === text && (claims.isRecorded(at) || goesOnAt(bytes, within))) return NOTHING_SEEN;
    if (!sector.onGrid) return offGrid(type, sector);
    const told = await follow(type, index, at);
    return seenOf(told, type.byChance ? at + told.length : 0);
  }

  async function* rest(kept: readonly number[]): AsyncGenerator<Seen> {
    for (const region of former.all) {
      const isUnknown = former.hasUnknownGrid(region);
      let busyTo = 0;
      for (const at of [...kept].sort((a, b) => a - b)) {
        if (at < Math.max(region.start, busyTo) || at >= region.end) continue;
        const isFormer = former.isOnFormerGrid(region, at);
        if ((!isFormer && !isUnknown) || claims.proven.overlap(at, 1) > 0) continue;
        const index = space.indexAt(at);
        const type = typeOfHead(await space.head(index, at, HEAD_BYTES));
        if (type?.reach !== "followed") continue;
        // What has no layout to go by must stand in nothing that is known, and so must what may be met by chance.
        if ((isUnknown || type.byChance) && claims.holderOf(at) !== null) continue;
        const told = await follow(type, index, at);
        if (type.byChance) busyTo = at + told.length;
        yield seenOf(told, 0);
      }
    }
  }

  return {
    name: NAME,
    stopsFor: ["checked", NAME, "pages"],
    marks: marksOf(FILE_TYPES.filter(({ reach }) => reach === "followed")),
    wants: ({ type }) => type?.reach === "followed",
    look,
    rest,
  };
};
