import { extentsSource, firstBytes, totalLength } from "../../bytes/extents.ts";
import { unreadableIn } from "../../bytes/patient-source.ts";
import { FILE_TYPES } from "../../filetypes/table.ts";
import type { Find, Patch } from "../../finds/find.ts";
import { idOf } from "../claims.ts";
import { NOTHING_KNOWN } from "../followed-find.ts";
import { endBehindLost, gradeContent, toldBy, withLost } from "../grade.ts";
import { innerFinds } from "../listed-find.ts";
import { type Detector, type MakeDetector, marksOf, NOTHING_SEEN, type Sector, type Seen } from "./detector.ts";

const NAME = "checked";

/** Contents whose structure is walked to its end, from wherever they begin. */
export const checkedContents: MakeDetector = ({ source, claims, space, former }): Detector => {
  /** Files begin where clusters begin. What begins elsewhere lay inside another file, or on a volume that was laid out otherwise: told at the end. */
  function holderOf({ at, onGrid }: Sector): string | "not known" | null {
    return onGrid ? null : (claims.holderOf(at) ?? "not known");
  }

  async function look(sector: Sector): Promise<Seen> {
    const { index, at, type } = sector;
    if (type?.reach !== "checked") return NOTHING_SEEN;
    const [format] = type.formats;
    const what = `${format.name.toUpperCase()} begins here`;
    const known = claims.startingAt(at);
    if (known !== undefined)
      return { ...NOTHING_SEEN, patches: [{ id: known, evidence: [{ pass: "sweep", what: `${what}: found by its content too`, at }] }] };
    if (claims.proven.overlap(at, 1) > 0) return NOTHING_SEEN;
    const stream = space.from(index, at);
    const graded = await gradeContent(type, extentsSource(source, stream), false);
    const { measure } = graded;
    // A beginning without dimensions is no picture to anybody: chance bytes do that.
    if (measure.width === null || measure.length === 0) return NOTHING_SEEN;
    const extents = firstBytes(stream, (await endBehindLost(type, source, stream, graded)) ?? measure.length);
    const twin = graded.condition === "remnant" ? null : await claims.present.sameAs(source, extents);
    if (twin !== null)
      return {
        ...NOTHING_SEEN,
        patches: [{ id: idOf({ at: twin }), evidence: [{ pass: "sweep", what: "an identical copy of it lies in free space", at }] }],
      };
    const lost = unreadableIn(source, extents);
    const holder = holderOf(sector);
    const find: Find = {
      ...NOTHING_KNOWN,
      id: `b${at.toString(16)}`,
      kind: format.kind,
      format: format.name,
      ...withLost({ condition: graded.condition, because: graded.because }, lost),
      checked: true,
      size: totalLength(extents),
      ...toldBy(graded),
      extents,
      volume: sector.run.volume?.info.index ?? null,
      inside: holder === "not known" ? null : holder,
      evidence: [
        { pass: "sweep", what: `${what}, in space that is free now`, at },
        { pass: "sweep", what: graded.because, at },
      ],
    };
    if (holder === "not known") claims.float(find);
    else claims.add(find);
    return {
      ...NOTHING_SEEN,
      finds: [find, ...(await innerFinds(find, graded, source))],
      busyTo: measure.condition === "whole" ? extents[0].offset + extents[0].length : 0,
      ...(holder === "not known" && { keep: true }),
    };
  }

  /** Those that began where no file of the present volume can: files of a former one, or pieces of a file that nothing names. */
  async function* rest(kept: readonly number[]): AsyncGenerator<Seen> {
    for (const region of former.all) {
      const { volume, runs } = region;
      const own = kept.filter((at) => at >= region.start && at < region.end);
      if (!volume || own.length === 0) continue;
      const isUnknown = former.hasUnknownGrid(region);
      const { clusterBytes } = volume.info;
      const finds: Find[] = [];
      const patches: Patch[] = [];
      for (const at of own) {
        if (isUnknown || former.isOnFormerGrid(region, at)) {
          claims.land(at);
          continue;
        }
        const start = at - ((at - runs[0].offset) % clusterBytes);
        const holder = claims.holderOf(at) ?? `s${start.toString(16)}`;
        const because = "a stretch of a file that nothing names any more; something in it can be told apart";
        if (holder.startsWith("s") && !finds.some(({ id }) => id === holder))
          finds.push({
            ...NOTHING_KNOWN,
            id: holder,
            because,
            size: clusterBytes,
            extents: [{ offset: start, length: clusterBytes }],
            volume: volume.info.index,
            evidence: [{ pass: "sweep", what: because, at: start }],
          });
        patches.push({
          id: `b${at.toString(16)}`,
          inside: holder,
          evidence: [{ pass: "sweep", what: "it begins in the middle of a cluster", at }],
        });
      }
      yield { ...NOTHING_SEEN, finds, patches };
    }
  }

  return {
    name: NAME,
    stopsFor: [NAME],
    marks: marksOf(FILE_TYPES.filter(({ reach }) => reach === "checked")),
    wants: ({ type }) => type?.reach === "checked",
    look,
    rest,
  };
};
