import { type Extent, extentsSource, firstBytes, onMedium, totalLength } from "../bytes/extents.ts";
import { type PatientSource, unreadableIn } from "../bytes/patient-source.ts";
import type { ByteSource } from "../bytes/source.ts";
import type { ListedFile, Placement, Volume } from "../filesystems/volume.ts";
import type { FileType, HeaderFacts } from "../filetypes/file-type.ts";
import type { Format } from "../filetypes/format.ts";
import { checkedType, followed, formatOf, headerFacts, promisedBy, typeOf } from "../filetypes/table.ts";
import { binnedName } from "../finds/bins.ts";
import { believable, type Find } from "../finds/find.ts";
import { idOf } from "./claims.ts";
import type { Depth } from "./events.ts";
import { asItself, cut, type Graded, gradeContent, thumbnailOf, toldBy, withLost } from "./grade.ts";
import { EVERYTHING_THERE, isLookedInto, type Scope } from "./scope.ts";

/** Bytes of a present picture that a quick scan looks at: enough for its dimensions and camera data. */
const QUICK_HEAD = 128 * 1024;
/** Drivers clear the rest of a file's last page: zeros after a picture's end, to here, mean that the file ended there. */
const PAGE = 4096;

type Verdict = Pick<Find, "condition" | "because" | "checked"> & {
  readonly extents: readonly Extent[];
  readonly graded: Graded | null;
  /** What its bytes say that it is. Without it: what its name promises. */
  readonly format?: Format;
  /** What its header says where it was not walked. */
  readonly header?: HeaderFacts | null;
};

/** What the bytes say about a file that a list names. Finds of pieces inside it come along. `scope`: what nobody asked for is not looked into. */
export async function findOf(
  file: ListedFile,
  volume: Volume | null,
  source: PatientSource,
  depth: Depth,
  scope = EVERYTHING_THERE,
): Promise<Find[]> {
  const bin = file.erased || file.name === null ? null : binnedName(file.name);
  const verdict = await (file.erased
    ? judgeErased(file, source, depth)
    : judgeListed(file, source, depth, bin ? "binned" : "present", scope));
  const { graded } = verdict;
  const format = graded?.type.formats[0] ?? verdict.format ?? promisedBy(bin?.original ?? file.name ?? "");
  const lost = unreadableIn(source, verdict.extents);
  const place = onMedium(verdict.extents)[0]?.offset;
  const state = file.erased ? "erased" : bin ? "binned" : "present";
  const find: Find = {
    id: idOf(file),
    kind: format.kind,
    format: format.name,
    state,
    ...withLost({ condition: verdict.condition, because: verdict.because }, lost),
    checked: verdict.checked,
    name: bin?.original ?? file.name,
    path: file.path,
    size: file.size,
    modified: believable(file.modified),
    ...toldBy(graded, verdict.header),
    lastDay: believable(bin?.lastDay ?? null),
    sha256: null,
    extents: [...verdict.extents],
    volume: volume?.info.index ?? null,
    inside: null,
    evidence: file.traces.map((trace) => ({ pass: "listing", ...trace })),
  };
  const how = file.placements.find(({ extents }) => extents === verdict.extents)?.how;
  if (how && place !== undefined) find.evidence.push({ pass: "listing", what: how, at: place });
  if (graded && place !== undefined)
    find.evidence.push({ pass: "listing", what: `${format.name.toUpperCase()}: ${graded.because}`, at: place });
  return [find, ...(await innerFinds(find, graded, source))];
}

const LEFT = "it is still there; nobody asked what is in it";

/** Finds inside a find: the preview of a picture that is not whole, and what stands behind a picture's end. */
export const innerFinds = async (find: Find, graded: Graded | null, source: ByteSource): Promise<Find[]> => [
  ...(await thumbnailFinds(find, graded, source)),
  ...behindFinds(find, graded),
];

/** What stands in one file behind its picture: each part is a find inside it. */
function behindFinds(find: Find, graded: Graded | null): Find[] {
  return (graded?.behind ?? []).map(({ offset, length, width, height, condition, because, checked, format }, index) => {
    const extents = cut(find.extents, offset, length);
    return {
      ...find,
      id: `${find.id}.${index + 1}`,
      kind: format.kind,
      format: format.name,
      // What nothing walks is not called whole where it was erased.
      condition: !checked && find.state === "erased" && condition === "whole" ? "damaged" : condition,
      because,
      checked,
      name: find.name && `behind ${find.name}.${format.endings[0] ?? format.name}`,
      path: null,
      size: totalLength(extents),
      width,
      height,
      shown: null,
      extents,
      inside: find.id,
      evidence: [
        {
          pass: find.evidence[0].pass,
          what: `${format.name.toUpperCase()} behind the end of the picture that holds it`,
          at: onMedium(extents)[0]?.offset ?? 0,
        },
      ],
    };
  });
}

/** A broken picture's own preview is a find inside it: often the best that is left. */
async function thumbnailFinds(find: Find, graded: Graded | null, source: ByteSource): Promise<Find[]> {
  if (!graded || find.condition === "whole" || find.condition === "small copy") return [];
  const thumbnail = await thumbnailOf(source, find.extents, graded);
  if (!thumbnail) return [];
  const { extents, measure } = thumbnail;
  return [
    {
      ...find,
      id: `${find.id}.t`,
      condition: "small copy",
      because: "the preview inside a picture that is not whole; the preview itself is",
      checked: true,
      name: find.name && `small copy of ${find.name}`,
      path: null,
      size: totalLength(extents),
      width: measure.width,
      height: measure.height,
      shown: 1,
      extents,
      inside: find.id,
      evidence: [{ pass: find.evidence[0].pass, what: "preview in the camera data of the picture that holds it", at: extents[0].offset }],
    },
  ];
}

/** What the name of a file promises, or had promised before it was binned. */
const promiseOf = ({ name }: ListedFile): Format => promisedBy(binnedName(name ?? "")?.original ?? name ?? "");

/** A quick scan reads nothing of files whose name promises a format that nothing here walks. */
function isWorthReading(file: ListedFile, depth: Depth): boolean {
  const { kind, name } = promisedBy(file.name ?? "");
  return depth === "deep" || kind === "other" || checkedType(name) !== null;
}

/** The format of an erased file by what lies at its place, where that is what its name promises or is as long as its record says; else null. */
async function erasedFormat(file: ListedFile, type: FileType | null, content: ByteSource): Promise<Format | null> {
  if (type?.reach !== "followed" || type.byChance) return null;
  const promised = promiseOf(file);
  if (type.formats.some(({ name }) => name === promised.name)) return formatOf(type, content);
  const told = await followed(type, content);
  return told?.ends && told.length === file.size ? told.format : null;
}

/** A file on a list that is not erased: present, or moved to a bin. */
async function judgeListed(file: ListedFile, source: ByteSource, depth: Depth, state: Find["state"], scope: Scope): Promise<Verdict> {
  const [{ extents, lost = 0 }] = file.placements;
  if (file.sealed) return { condition: "remnant", because: file.sealed, checked: false, extents, graded: null };
  const there = totalLength(extents) - lost;
  if (there < file.size)
    return {
      condition: there > 0 ? "damaged" : "remnant",
      because: `its record leads to only ${there} of ${file.size} bytes`,
      checked: false,
      extents,
      graded: null,
    };
  const listed: Verdict = {
    condition: "whole",
    because: "it is still there: its record leads to all of it",
    checked: false,
    extents,
    graded: null,
  };
  if (file.size === 0) return { ...listed, because: "it is empty" };
  if (file.crossed) return { ...listed, condition: "damaged", because: file.crossed };
  const content = extentsSource(source, extents, file.name ?? undefined);
  const promised = promiseOf(file);
  const isLeft = ({ kind }: Format) => !isLookedInto(scope, { kind, state });
  // Where only what is erased is asked for, a name is believed; else what begins in a file says what it is.
  if (scope.erasedOnly && promised.kind !== "other" && isLeft(promised)) return { ...listed, because: LEFT };
  const type = isWorthReading(file, depth) ? await typeOf(content) : null;
  const format = type && (await formatOf(type, content, promised));
  if (isLeft(format ?? promised)) return { ...listed, because: LEFT, ...(format && { format }) };
  if (type?.reach !== "checked") {
    const isFalse = checkedType(promised.name) !== null && (type === null || type.byChance);
    if (isFalse) return { ...listed, condition: "remnant", because: falseName(file), checked: true };
    return type && format ? { ...listed, format, header: await headerFacts(type, content) } : listed;
  }
  if (depth === "quick") {
    const head = extentsSource(source, firstBytes(extents, QUICK_HEAD), file.name ?? undefined);
    const graded = { ...(await gradeContent(type, head, false)), behind: [] };
    return {
      ...listed,
      because: "it is still there; a quick scan does not walk what is present",
      graded: { ...graded, because: "its beginning was looked at" },
    };
  }
  const graded = await gradeContent(type, content, true);
  return { ...asItself(graded, file.path), checked: true, extents, graded };
}

/** Its name promises a picture that is walked here, and nothing that is known begins in it: it is no picture, however its record stands. */
const falseName = (file: ListedFile): string =>
  `no ${promiseOf(file).name.toUpperCase()} begins in it, and nothing else that is known: it is no picture, whatever its name says`;

async function judgeErased(file: ListedFile, source: ByteSource, depth: Depth): Promise<Verdict> {
  const [likely] = file.placements;
  if (file.sealed) return { condition: "remnant", because: file.sealed, checked: false, extents: likely?.extents ?? [], graded: null };
  if (!likely)
    return { condition: "remnant", because: "its place is in use by something else now", checked: true, extents: [], graded: null };
  if (!isWorthReading(file, depth)) return unchecked(file, likely);
  const there = extentsSource(source, likely.extents, file.name ?? undefined);
  const type = await typeOf(there);
  if (type?.reach !== "checked") {
    const format = await erasedFormat(file, type, there);
    const promised = promisedBy(file.name ?? "");
    if (format === null && checkedType(promised.name) !== null)
      return {
        condition: "remnant",
        because: `no ${promised.name.toUpperCase()} begins at its place any more: its beginning was overwritten`,
        checked: true,
        extents: likely.extents,
        graded: null,
      };
    return { ...unchecked(file, likely), ...(format && type && { format, header: await headerFacts(type, there) }) };
  }
  let best: { verdict: Verdict; reached: number } | null = null;
  for (const placement of file.placements) {
    const content = extentsSource(source, placement.extents, file.name ?? undefined);
    const graded = await gradeContent(type, content, true);
    const verdict = await holdAgainstRecord(file, placement, content, graded);
    if (!best || rank(verdict) > rank(best.verdict) || (rank(verdict) === rank(best.verdict) && graded.measure.length > best.reached))
      best = { verdict, reached: graded.measure.length };
    if (rank(verdict) === RANK.length - 1) break;
  }
  return best?.verdict ?? unchecked(file, likely);
}

const RANK: readonly Find["condition"][][] = [["remnant"], ["damaged"], ["whole", "small copy"]];
const rank = (verdict: Verdict): number => RANK.findIndex((conditions) => conditions.includes(verdict.condition));

function unchecked(file: ListedFile, { extents, lost = 0 }: Placement): Verdict {
  const there = totalLength(extents) - lost;
  const because =
    there < file.size
      ? `only ${there} of ${file.size} bytes are left; the places of the others were given to other files`
      : "its place is free, but nothing in bytes of this format is checked: a part may be overwritten";
  return { condition: "damaged", because, checked: false, extents, graded: null };
}

/** A content was walked from the recorded place: is it the recorded file? Its length must agree with the record. */
async function holdAgainstRecord(file: ListedFile, placement: Placement, content: ByteSource, graded: Graded): Promise<Verdict> {
  const { length } = graded.measure;
  const { extents } = placement;
  const whole = graded.condition === "whole" || graded.condition === "small copy";
  // Holes of a partly lost file read as zeros: what a walker makes of them is not the file.
  if (whole && (placement.lost ?? 0) > 0)
    return { condition: "damaged", because: `${placement.lost} of its bytes were given to other files`, checked: true, extents, graded };
  if (!whole || length === file.size) return { condition: graded.condition, because: graded.because, checked: true, extents, graded };
  const tail = Math.min(content.size, Math.ceil(length / PAGE) * PAGE) - length;
  const cleared = (await content.read(length, tail)).every((byte) => byte === 0);
  if (file.size - length > tail && cleared)
    return {
      condition: "remnant",
      because: `another ${graded.type.formats[0].name.toUpperCase()} of ${length} bytes lies at its place now`,
      checked: true,
      extents: [],
      graded: null,
    };
  return {
    condition: "damaged",
    because: `the picture is whole, but ${file.size - length} bytes recorded after its end are not checked`,
    checked: true,
    extents,
    graded,
  };
}
