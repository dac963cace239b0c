import type { Extent } from "../../bytes/extents.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { FollowedType, Pixels } from "../file-type.ts";
import { format, picture } from "../format.ts";
import { ascii, brokenOff, some, within } from "./follow.ts";

const plain = picture("tiff", "image/tiff", ["tif", "tiff"]);
const dng = format("dng", "photo", { preview: "image" });
/** What cameras write of a sensor in a form of their maker's (TIFF/EP, ISO 12234-2): one format for all of them. */
const rawPhoto = format("raw", "photo", { endings: ["raw", "cr2", "nef", "arw", "orf", "rw2", "pef", "srw"], preview: "image" });

/** Bytes of each type of value (TIFF 6.0 §2). */
const SIZES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4];
/** Tags that say where data lie, with those that say how many bytes: strips, tiles, previews. */
const DATA = [
  [273, 279],
  [324, 325],
  [513, 514],
] as const;
/** Tags that lead to further directories: of sub-images, camera data, place, interoperability. */
const DIRECTORIES = [330, 34_665, 34_853, 40_965];
const PHOTOMETRIC = 262;
const COMPRESSION = 259;
/** Compressions that are JPEG's: the one of TIFF 6.0 §22, and that of its note 2. */
const JPEG = [6, 7];
/** Columns and rows of a picture (TIFF 6.0 §3). */
const SIDES = [256, 257] as const;
/** Photometric interpretation of a sensor's own pixels: colour filter array, and linear (TIFF/EP, DNG 1.4 §4). */
const SENSOR = [32_803, 34_892];
const DNG_VERSION = 50_706;
const LISTED = new Set<number>([...DATA.flat(), ...DIRECTORIES, ...SIDES, PHOTOMETRIC, COMPRESSION]);
const MAX_DIRECTORIES = 64;
const MAX_ENTRIES = 512;
const MAX_VALUES = 65_536;

/** What the directories tell: where the furthest of what they lead to ends, and what kind of picture it is. */
interface Told {
  readonly end: number;
  readonly format: typeof plain;
  readonly complete: boolean;
  /** The largest of its pictures. */
  readonly pixels: Pixels | null;
  /** Small copies of it, as JPEGs. */
  readonly copies: readonly Extent[];
}

async function walk(content: ByteSource): Promise<Told | null> {
  const head = await some(content, 0, 8);
  const little = head[0] === 0x49;
  const number = (bytes: Uint8Array, at: number, size: number): number => {
    let value = 0;
    for (let index = 0; index < size; index++) value = value * 256 + bytes[little ? at + size - 1 - index : at + index];
    return value;
  };
  let end = 8;
  let isSensor = false;
  let isDng = false;
  let pixels: Pixels | null = null;
  const copies: Extent[] = [];
  const waiting = [number(head, 4, 4)];
  const seen = new Set<number>();
  const told = (complete: boolean): Told => ({ end, format: isDng ? dng : isSensor ? rawPhoto : plain, complete, pixels, copies });
  for (let directory = waiting.pop(); directory !== undefined; directory = waiting.pop()) {
    if (directory === 0 || seen.has(directory)) continue;
    if (seen.size >= MAX_DIRECTORIES) break;
    seen.add(directory);
    if (directory + 2 > content.size) return told(false);
    const count = number(await some(content, directory, 2), 0, 2);
    const entries = await some(content, directory + 2, count * 12 + 4);
    if (count === 0 || count > MAX_ENTRIES || entries.length < count * 12 + 4) {
      if (seen.size === 1) return null;
      continue;
    }
    end = Math.max(end, directory + 2 + count * 12 + 4);
    const lists = new Map<number, number[]>();
    for (let entry = 0; entry < count; entry++) {
      const at = entry * 12;
      const [tag, type, values] = [number(entries, at, 2), number(entries, at + 2, 2), number(entries, at + 4, 4)];
      const bytes = (SIZES[type] ?? 1) * values;
      const place = bytes > 4 ? number(entries, at + 8, 4) : 0;
      end = Math.max(end, place + (bytes > 4 ? bytes : 0));
      if (tag === DNG_VERSION) isDng = true;
      if (!LISTED.has(tag) || values > MAX_VALUES || ![3, 4, 13].includes(type)) continue;
      const stored = bytes > 4 ? await some(content, place, bytes) : entries.subarray(at + 8, at + 12);
      lists.set(
        tag,
        Array.from({ length: values }, (_, index) =>
          (index + 1) * SIZES[type] <= stored.length ? number(stored, index * SIZES[type], SIZES[type]) : 0,
        ),
      );
    }
    if (SENSOR.includes(lists.get(PHOTOMETRIC)?.[0] ?? 0)) isSensor = true;
    copies.push(...copiesOf(lists));
    const [width, height] = SIDES.map((tag) => lists.get(tag)?.[0] ?? 0);
    if (width * height > (pixels ? pixels.width * pixels.height : 0)) pixels = { width, height };
    for (const [places, sizes] of DATA)
      lists.get(places)?.forEach((place, index) => {
        end = Math.max(end, place + (lists.get(sizes)?.[index] ?? 0));
      });
    waiting.push(number(entries, count * 12, 4), ...DIRECTORIES.flatMap((tag) => lists.get(tag) ?? []));
  }
  return end <= 8 ? null : told(true);
}

/** The picture of a directory, where it is a JPEG of its own and not the sensor's: by its tags of old (TIFF 6.0 §22), or as the only strip (TIFF note 2). */
function copiesOf(lists: ReadonlyMap<number, readonly number[]>): Extent[] {
  const one = (tag: number) => (lists.get(tag)?.length === 1 ? (lists.get(tag)?.[0] ?? 0) : 0);
  const isSensor = SENSOR.includes(one(PHOTOMETRIC));
  const isJpeg = JPEG.includes(one(COMPRESSION));
  const places = [DATA[2], ...(isJpeg && !isSensor ? [DATA[0]] : [])].map(([place, size]) => ({ offset: one(place), length: one(size) }));
  return places.filter(({ offset, length }) => offset > 0 && length > 0);
}

/** Marks of directories that begin as TIFF's do: TIFF 6.0 §2; the others are camera makers' own, otherwise the same (common practice, no source). */
const MARKS = ["II*\0", "MM\0*", "IIRO", "IIU\0"];

/** TIFF 6.0 §2: directories of entries; the furthest strip, value or directory is the end. Raw photos are written so too. */
export const tiff: FollowedType = {
  reach: "followed",
  formats: [plain, dng, rawPhoto],
  firstBytes: [0x49, 0x4d],
  beginsBytes: 8,
  begins: (bytes, at) => MARKS.some((mark) => ascii(bytes, at, mark)),
  narrow: async (content) => (await walk(content))?.format ?? plain,
  pixels: async (content) => (await walk(content))?.pixels ?? null,
  inner: async (content) => (await walk(content))?.copies ?? [],
  async follow(content) {
    const told = await walk(content);
    if (!told) return null;
    return told.complete ? within(told.format, content, told.end) : brokenOff(told.format, content, told.end);
  },
};
