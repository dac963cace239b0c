import type { ByteSource } from "../bytes/source.ts";
import type { CheckedType, FileType, Followed, FollowedType, HeaderFacts, Pixels } from "./file-type.ts";
import { adts } from "./followed/adts.ts";
import { aiff } from "./followed/aiff.ts";
import { amr } from "./followed/amr.ts";
import { ape } from "./followed/ape.ts";
import { appBackup, rar, sevenZip, tar } from "./followed/archives.ts";
import { asf } from "./followed/asf.ts";
import { bmp } from "./followed/bmp.ts";
import { borneOut } from "./followed/borne-out.ts";
import { compound } from "./followed/compound.ts";
import { flac } from "./followed/flac.ts";
import { flv } from "./followed/flv.ts";
import { fonts } from "./followed/fonts.ts";
import { gif } from "./followed/gif.ts";
import { icon } from "./followed/icon.ts";
import { isoMedia } from "./followed/iso-media.ts";
import { jpegXl } from "./followed/jpeg-xl.ts";
import { jpeg2000 } from "./followed/jpeg2000.ts";
import { matroska } from "./followed/matroska.ts";
import { midi } from "./followed/midi.ts";
import { mp3 } from "./followed/mp3.ts";
import { clockedTransportStream, programStream, transportStream } from "./followed/mpeg.ts";
import { ogg } from "./followed/ogg.ts";
import { bzip2, gzip, xz } from "./followed/packed-streams.ts";
import { pdf } from "./followed/pdf.ts";
import { psd } from "./followed/psd.ts";
import { riff } from "./followed/riff.ts";
import { sqlite } from "./followed/sqlite.ts";
import { text } from "./followed/text.ts";
import { tiff } from "./followed/tiff.ts";
import { wavpack } from "./followed/wavpack.ts";
import { zip } from "./followed/zip.ts";
import { type Format, format } from "./format.ts";
import { jpeg } from "./jpeg/jpeg.ts";
import { NAMED } from "./named.ts";
import { png } from "./png/png.ts";

/**
 * Every type of contents. Adding one is adding its file and its line here. Of two that begin alike the first one is asked first; text is
 * last: much begins like it.
 */
export const FILE_TYPES: readonly FileType[] = [
  jpeg,
  png,
  riff,
  bmp,
  sqlite,
  tiff,
  matroska,
  isoMedia,
  jpeg2000,
  jpegXl,
  psd,
  icon,
  gif,
  zip,
  gzip,
  bzip2,
  xz,
  sevenZip,
  rar,
  appBackup,
  compound,
  pdf,
  ogg,
  flac,
  aiff,
  midi,
  asf,
  flv,
  programStream,
  wavpack,
  ape,
  fonts,
  adts,
  mp3,
  amr,
  tar,
  transportStream,
  clockedTransportStream,
  text,
];

/** Bytes that are enough to tell what begins at a place. */
export const HEAD_BYTES = Math.max(...FILE_TYPES.map(({ beginsBytes }) => beginsBytes));

/** The types by the byte that stands at a place of theirs: what most places cost is one look into each of these tables. */
interface FirstLook {
  readonly at: number;
  readonly types: readonly (readonly FileType[])[];
}
const lookAt = (at: number): FirstLook => {
  const own = FILE_TYPES.filter(({ markAt = 0 }) => markAt === at);
  return { at, types: Array.from({ length: 256 }, (_, byte) => own.filter(({ firstBytes }) => firstBytes.includes(byte))) };
};
/** Marks further in are asked first: what begins with a name begins like a text. */
const FIRST_LOOKS: readonly FirstLook[] = [...new Set(FILE_TYPES.map(({ markAt = 0 }) => markAt))].sort((a, b) => b - a).map(lookAt);

/** The type of what begins at `at`, or null. */
export function typeAt(bytes: Uint8Array, at: number): FileType | null {
  const left = bytes.length - at;
  for (const look of FIRST_LOOKS)
    for (const type of look.types[bytes[at + look.at]] ?? []) if (type.beginsBytes <= left && type.begins(bytes, at)) return type;
  return null;
}

/** Contents end before the bytes that a type looks at do: then zeros stand behind them, as they do where the rest of a page is cleared. */
export function typeOfHead(head: Uint8Array): FileType | null {
  if (head.length >= HEAD_BYTES) return typeAt(head, 0);
  const padded = new Uint8Array(HEAD_BYTES);
  padded.set(head);
  return head.length === 0 ? null : typeAt(padded, 0);
}

/** The type that begins at byte 0 of a content, or null. */
export const typeOf = async (content: ByteSource): Promise<FileType | null> =>
  typeOfHead(await content.read(0, Math.min(HEAD_BYTES, content.size)));

/** Follows a content to the end that it says it has, and no further than there is of it. Null: it is none after all. */
export async function followed(type: FollowedType, content: ByteSource): Promise<Followed | null> {
  const told = await type.follow(content);
  return told && borneOut(content, told);
}

/** Which of its type's formats a content is. `promised`: what its name promises, which says more where the bytes look so by chance only. */
export async function formatOf(type: FileType, content: ByteSource, promised: Format | null = null): Promise<Format> {
  if (promised && type.byChance && promised.kind !== "other") return promised;
  return (await type.narrow?.(content)) ?? type.formats[0];
}

/** Pixels of a side that no header is believed beyond. */
const LONGEST_SIDE = 0x7fff_ffff;

/** A film that says it is longer is not believed: ten years. */
const LONGEST_SECONDS = 10 * 366 * 86_400;

/** What a content's own header says of it. */
export async function headerFacts(type: FileType, content: ByteSource): Promise<HeaderFacts> {
  const told = (await type.seconds?.(content)) ?? null;
  const seconds = told === null ? null : Math.round(told * 1000) / 1000;
  const isLength = seconds !== null && seconds > 0 && seconds <= LONGEST_SECONDS;
  return { pixels: await pixelsOf(type, content), seconds: isLength ? seconds : null };
}

/** How large the picture of a content is by its own header, or null where it does not say. */
export async function pixelsOf(type: FileType, content: ByteSource): Promise<Pixels | null> {
  const told = (await type.pixels?.(content)) ?? null;
  const isSide = (side: number) => Number.isSafeInteger(side) && side > 0 && side <= LONGEST_SIDE;
  return told && isSide(told.width) && isSide(told.height) ? told : null;
}

const FORMATS: readonly Format[] = [...FILE_TYPES.flatMap(({ formats }) => formats), ...NAMED];
const BY_NAME = new Map([...FORMATS].reverse().map((one) => [one.name, one]));
const BY_ENDING = new Map([...FORMATS].reverse().flatMap((one) => one.endings.map((ending) => [ending, one] as const)));

/** The format of that name. One that nothing here knows is "other", and goes by its name. */
export const formatNamed = (name: string): Format =>
  BY_NAME.get(name) ?? format(name, "other", { endings: name === UNKNOWN ? [] : [name] });

/** What nothing tells. */
const UNKNOWN = "unknown";

/** What a name promises: a format. A name without a known ending is "other". */
export function promisedBy(name: string): Format {
  const ending = name.slice(name.lastIndexOf(".") + 1).toLowerCase();
  if (!name.includes(".")) return formatNamed(UNKNOWN);
  return BY_ENDING.get(ending) ?? formatNamed(/^[a-z0-9]{1,5}$/.test(ending) ? ending : UNKNOWN);
}

/** The type whose contents are of this format and walked to their end. Null: nothing checks them. */
export const checkedType = (name: string): CheckedType | null =>
  FILE_TYPES.find((type): type is CheckedType => type.reach === "checked" && type.formats.some((one) => one.name === name)) ?? null;
