import { type Extent, extentsSource, firstBytes, HOLE, totalLength } from "../bytes/extents.ts";
import type { PatientSource } from "../bytes/patient-source.ts";
import { piecesFrom } from "../bytes/pieces.ts";
import type { ByteSource } from "../bytes/source.ts";
import { type Behind, behindOf } from "../filetypes/behind.ts";
import { describeContent } from "../filetypes/describe.ts";
import type { CheckedType, Condition, Description, HeaderFacts, Measure } from "../filetypes/file-type.ts";
import { typeOf } from "../filetypes/table.ts";
import { believable, type Find } from "../finds/find.ts";

/** Longest side, in pixels, of a picture that is only a thumbnail, unless it names a camera of its own. */
const SMALL_SIDE = 256;
/** A copy that names an original this many times wider is a small copy of it, up to this side. */
const SHRUNK = 2;
const SHRUNK_SIDE = 640;

/** A content that was walked, with what it says about itself. */
export interface Graded {
  readonly type: CheckedType;
  readonly measure: Measure;
  readonly condition: Condition;
  readonly because: string;
  readonly about: Description | null;
  /** What stands in the same file behind its picture; `measure.length` goes on to its end. */
  readonly behind: readonly Behind[];
}

const isSmallCopy = (measure: Measure, about: Description | null): boolean => {
  if (measure.width === null || measure.height === null) return false;
  const side = Math.max(measure.width, measure.height);
  if (about?.originalWidth && about.originalWidth >= measure.width * SHRUNK && side <= SHRUNK_SIDE) return true;
  return side <= SMALL_SIDE && !about?.camera && !about?.taken;
};

/**
 * Walks a content that begins with `type` and says how whole it is, with what stands behind its picture in the same file.
 * `recorded`: a record says how long the file is, and the content is that long.
 */
export async function gradeContent(type: CheckedType, content: ByteSource, recorded: boolean): Promise<Graded> {
  const picture = await type.measure(content);
  const about = picture.hasExif ? await describeContent(content) : null;
  const behind = picture.condition === "whole" ? await behindOf(content, picture.length, recorded) : [];
  const last = behind.at(-1);
  if (last) {
    const broken = behind.find(({ condition }) => condition === "damaged" || condition === "remnant");
    const measure = { ...picture, length: last.offset + last.length };
    const follows = `${picture.because}; behind it ${behind.map(({ format, length }) => `${format.name.toUpperCase()} of ${length} bytes`).join(", ")}`;
    if (broken)
      return {
        type,
        measure,
        about,
        behind,
        condition: "damaged",
        because: `${follows}, and ${broken.format.name.toUpperCase()} is not whole: ${broken.because}`,
      };
    return { type, measure, about, behind, condition: "whole", because: follows };
  }
  const measure = picture;
  if (measure.condition === "whole" && type.isKeptSmall && isSmallCopy(measure, about))
    return {
      type,
      measure,
      about,
      behind,
      condition: "small copy",
      because: `whole, but only a small copy (${measure.width} × ${measure.height})`,
    };
  return { type, measure, about, behind, condition: measure.condition, because: measure.because };
}

/** Folders where the system and apps keep small copies (common practice, no source). */
const PREVIEW_FOLDER = /thumb|preview|cache/i;

/** What a find says of itself, as far as its content was walked. `header`: what its header says where it was not. */
export const toldBy = (
  graded: Graded | null,
  header: HeaderFacts | null = null,
): Pick<Find, "taken" | "width" | "height" | "seconds" | "shown" | "camera" | "place"> => ({
  taken: believable(graded?.about?.taken ?? null),
  width: graded?.measure.width ?? header?.pixels?.width ?? null,
  height: graded?.measure.height ?? header?.pixels?.height ?? null,
  seconds: header?.seconds ?? null,
  shown: graded?.measure.shown ?? null,
  camera: graded?.about?.camera ?? null,
  place: graded?.about?.place ?? null,
});

/** What a picture is that is there with all its bytes: what somebody put there, however small, unless it lies where previews are kept. */
export function asItself({ measure, about, condition, because }: Graded, path: string | null): Pick<Find, "condition" | "because"> {
  const isItself = condition === "small copy" && !PREVIEW_FOLDER.test(path ?? "") && (about?.originalWidth ?? 0) <= (measure.width ?? 0);
  return isItself
    ? { condition: "whole", because: `whole, a small picture (${measure.width} × ${measure.height})` }
    : { condition, because };
}

/** Where a content ends that goes on behind bytes the medium does not give; null where it was not broken by any. */
export async function endBehindLost(
  type: CheckedType,
  source: PatientSource,
  extents: readonly Extent[],
  { measure, condition }: Graded,
): Promise<number | null> {
  if (condition === "whole" || condition === "small copy" || !type.endBehind) return null;
  const lost: Extent[] = [];
  let before = 0;
  for (const { offset, length } of extents) {
    if (offset !== HOLE)
      for (const part of source.unreadable.within(offset, length))
        lost.push({ offset: before + part.offset - offset, length: part.length });
    before += length;
  }
  return lost.length > 0 ? type.endBehind(extentsSource(source, extents), measure.length, lost) : null;
}

/** A condition held against the bytes that the medium did not give: what was not read is never whole. */
export function withLost<C extends Pick<Find, "condition" | "because">>(found: C, lost: number): C {
  if (lost === 0) return found;
  const condition = found.condition === "remnant" ? "remnant" : "damaged";
  return { ...found, condition, because: `${lost} of its bytes cannot be read from the medium` };
}

/** Reads a content from end to end: what of it cannot be read is known to the source afterwards. */
export async function readThrough(source: PatientSource, extents: readonly Extent[]): Promise<void> {
  for await (const _ of piecesFrom(extentsSource(source, extents)));
}

/** The preview that a broken picture still holds, as a content of its own, where it is whole. */
export async function thumbnailOf(
  source: ByteSource,
  extents: readonly Extent[],
  graded: Graded,
): Promise<{ extents: Extent[]; measure: Measure } | null> {
  const place = graded.about?.thumbnail;
  if (!place || place.offset + place.length > totalLength(extents)) return null;
  const inner = cut(extents, place.offset, place.length);
  const content = extentsSource(source, inner);
  if ((await typeOf(content)) !== graded.type) return null;
  const measure = await graded.type.measure(content);
  return measure.condition === "whole" ? { extents: firstBytes(inner, measure.length), measure } : null;
}

/** Bytes `from`..`from + length` of a content as extents of the source. */
export function cut(extents: readonly Extent[], from: number, length: number): Extent[] {
  const rest: Extent[] = [];
  let skip = from;
  for (const extent of extents) {
    if (skip < extent.length) rest.push({ offset: extent.offset === HOLE ? HOLE : extent.offset + skip, length: extent.length - skip });
    skip = Math.max(0, skip - extent.length);
  }
  return firstBytes(rest, length);
}
