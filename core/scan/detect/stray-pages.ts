import { STRAY_FORMAT } from "../../filetypes/database-formats.ts";
import { PageType } from "../../sqlite/format/layout.ts";
import { strayPageAt } from "../../sqlite/stray.ts";
import { NOTHING_KNOWN } from "../followed-find.ts";
import { type Detector, type MakeDetector, NOTHING_SEEN, type Sector, type Seen } from "./detector.ts";

const NAME = "pages";
/** Bytes of the largest page of a database. */
const LARGEST_PAGE = 65_536;

/** Pages of a database that lie by themselves: where no record leads to them and no database that was found goes over them. Neighbours are one find. */
export const strayPages: MakeDetector = ({ claims, space, databases }): Detector => {
  async function look({ index, run, at, bytes: window, within }: Sector): Promise<Seen> {
    if (claims.isRecorded(at) || databases.overlap(at, 1) > 0) return NOTHING_SEEN;
    const left = run.offset + run.length - at;
    const inWindow = within + Math.min(left, LARGEST_PAGE) <= window.length;
    const bytes = inWindow ? window.subarray(within) : await space.head(index, at, Math.min(left, LARGEST_PAGE));
    let length = 0;
    for (let size = strayPageAt(bytes, 0); size > 0; size = strayPageAt(bytes, length)) length += size;
    if (length === 0) return NOTHING_SEEN;
    const because = "pages of a database that lie by themselves; their rows are told of apart";
    return {
      ...NOTHING_SEEN,
      busyTo: at + length,
      finds: [
        {
          ...NOTHING_KNOWN,
          id: `p${at.toString(16)}`,
          kind: "database",
          format: STRAY_FORMAT,
          because,
          size: length,
          extents: [{ offset: at, length }],
          volume: run.volume?.info.index ?? null,
          evidence: [{ pass: "sweep", what: because, at }],
        },
      ],
    };
  }
  return {
    name: NAME,
    stopsFor: [NAME, "checked"],
    marks: [{ at: 0, bytes: [PageType.tableLeaf] }],
    wants: ({ bytes, within }) => bytes[within] === PageType.tableLeaf,
    look,
  };
};
