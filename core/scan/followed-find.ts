import { type Extent, extentsSource, firstBytes, HOLE, hole } from "../bytes/extents.ts";
import type { PatientSource } from "../bytes/patient-source.ts";
import type { Followed, FollowedType } from "../filetypes/file-type.ts";
import { followed, headerFacts } from "../filetypes/table.ts";
import type { Find, Patch } from "../finds/find.ts";
import type { Claims } from "./claims.ts";
import { toldBy } from "./grade.ts";

/** Below this, something that says how long it is, is chance. */
const LEAST = 48;

/** What a stretch is where nothing is known of it. */
export const NOTHING_KNOWN = {
  kind: "other",
  format: "unknown",
  state: "erased",
  condition: "remnant",
  checked: false,
  name: null,
  path: null,
  modified: null,
  taken: null,
  lastDay: null,
  width: null,
  height: null,
  seconds: null,
  shown: null,
  camera: null,
  place: null,
  sha256: null,
  inside: null,
} as const;

/**
 * Follows a content over free space, what is in use stepped over. Where that leads to no end, it is read straight on: what is
 * in use now may have been written over its middle.
 */
async function follow(type: FollowedType, source: PatientSource, stream: Extent[]): Promise<{ told: Followed | null; over: Extent[] }> {
  const told = await followed(type, extentsSource(source, stream));
  // What is known by its look alone has no end of its own that reading on could lead to.
  if (told?.ends || stream.length === 1 || type.byChance) return { told, over: stream };
  const straight = stream.flatMap((extent, number) => {
    const before = stream[number - 1];
    const gap = before ? extent.offset - before.offset - before.length : 0;
    return gap > 0 ? [hole(gap), extent] : [extent];
  });
  const other = await followed(type, extentsSource(source, straight));
  return other?.ends ? { told: other, over: straight } : { told, over: stream };
}

/** What is told of a content that begins a stretch of free space: a find, or more of one that is known. Bytes it goes on for. */
export interface Told {
  readonly length: number;
  /** It was followed to an end of its own. */
  readonly ends: boolean;
  readonly find?: Find;
  readonly patch?: Patch;
}

/**
 * A content that is known by its beginning and followed to the end that it declares; nothing in it is checked. `stream`: free space from its first byte on.
 * `which`: those that break off are not told of.
 */
export async function followedFind(
  type: FollowedType,
  source: PatientSource,
  claims: Claims,
  stream: Extent[],
  volume: number | null,
  which: "all" | "only to its end" = "all",
): Promise<Told> {
  const { told, over } = await follow(type, source, stream);
  if (!told || told.length < LEAST) return { length: 0, ends: false };
  const { length, format, ends } = told;
  if (!ends && which === "only to its end") return { length, ends };
  const at = stream[0].offset;
  const name = format.name.toUpperCase();
  const known = claims.beginningAt(at);
  if (known !== undefined)
    return { length, ends, patch: { id: known, evidence: [{ pass: "sweep", what: `${name} begins here: found by its content too`, at }] } };
  const extents = firstBytes(over, length);
  if ((await claims.present.sameAs(source, extents)) !== null) return { length, ends };
  const lost = extents.reduce((sum, extent) => sum + (extent.offset === HOLE ? extent.length : 0), 0);
  const goes = ends
    ? `it goes on for ${length} bytes by its own word; nothing in it was checked`
    : `it breaks off after ${length} bytes; nothing in it was checked`;
  const because =
    lost > 0 ? `${lost} of its ${length} bytes were written over by files that are there now; nothing in the rest was checked` : goes;
  const find: Find = {
    ...NOTHING_KNOWN,
    id: `b${at.toString(16)}`,
    kind: format.kind,
    format: format.name,
    condition: "damaged",
    because,
    ...toldBy(null, await headerFacts(type, extentsSource(source, extents))),
    size: length,
    extents,
    volume,
    evidence: [
      { pass: "sweep", what: `${name} begins here, in space that is free now`, at },
      { pass: "sweep", what: because, at },
    ],
  };
  claims.add(find);
  return { length, ends, find };
}
