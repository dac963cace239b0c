import { u32be } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { film, sound } from "../format.ts";
import { brokenOff, some, within } from "./follow.ts";

const be32 = u32be(0);
const EBML = 0x1a45_dfa3;
const SEGMENT = 0x1853_8067;
const CLUSTER = 0x1f43_b675;
/** Elements right inside a segment (RFC 9559 §5.1): seek head, info, tracks, cues, tags, attachments, chapters; void and check sum (RFC 8794 §11.3). */
const IN_SEGMENT = new Set([
  0x114d_9b74,
  0x1549_a966,
  0x1654_ae6b,
  0x1c53_bb6b,
  0x1254_c367,
  0x1941_a469,
  0x1043_a770,
  0xec,
  0xbf,
  CLUSTER,
]);
/** Elements right inside a cluster (RFC 9559 §5.1.3): time stamp, blocks, position, size of the one before. */
const IN_CLUSTER = new Set([0xe7, 0xa3, 0xa0, 0xa7, 0xab, 0x5854, 0xaf, 0xec, 0xbf]);
const MAX_ELEMENTS = 2_000_000;

interface Element {
  readonly id: number;
  /** Bytes of id and size. */
  readonly head: number;
  /** Null: unknown, it goes on until something stands there that cannot be in it (RFC 8794 §6.2). */
  readonly size: number | null;
}

/** Reads an element's id and size: both say by their first set bit how many bytes they have (RFC 8794 §4, §5). */
function elementAt(bytes: Uint8Array, at: number): Element | null {
  const idBytes = bytes[at] ? Math.clz32(bytes[at]) - 23 : 0;
  if (idBytes < 1 || idBytes > 4 || at + idBytes >= bytes.length) return null;
  let id = 0;
  for (let index = 0; index < idBytes; index++) id = id * 256 + bytes[at + index];
  const sizeAt = at + idBytes;
  const sizeBytes = bytes[sizeAt] ? Math.clz32(bytes[sizeAt]) - 23 : 0;
  if (sizeBytes < 1 || sizeBytes > 8 || sizeAt + sizeBytes > bytes.length) return null;
  let size = bytes[sizeAt] & (0xff >> sizeBytes);
  let unknown = size === 0xff >> sizeBytes;
  for (let index = 1; index < sizeBytes; index++) {
    unknown &&= bytes[sizeAt + index] === 0xff;
    size = size * 256 + bytes[sizeAt + index];
  }
  return { id, head: idBytes + sizeBytes, size: unknown ? null : size };
}

/** Steps over a segment of unknown size, as it is written while it is recorded. Bytes, and whether a cluster was met. */
async function overSegment(content: ByteSource, from: number): Promise<{ at: number; clusters: number }> {
  let at = from;
  let clusters = 0;
  let inCluster = false;
  for (let elements = 0; elements < MAX_ELEMENTS; elements++) {
    const element = elementAt(await some(content, at, 12), 0);
    if (!element || !(IN_SEGMENT.has(element.id) || (inCluster && IN_CLUSTER.has(element.id)))) break;
    if (element.id === CLUSTER) clusters++;
    inCluster = element.id === CLUSTER ? element.size === null : inCluster && IN_CLUSTER.has(element.id);
    const next = at + element.head + (element.id === CLUSTER && element.size === null ? 0 : (element.size ?? Number.POSITIVE_INFINITY));
    if (next > content.size) break;
    at = next;
  }
  return { at, clusters };
}

/** Bytes of the header that are looked at: RFC 8794 gives it no more than a few elements. */
const HEAD = 128;
const mkv = film("mkv", "video/x-matroska");
const webm = film("webm", "video/webm");
const mka = sound("mka", "audio/x-matroska");
/** TrackType (RFC 9559 §5.1.4.1.3): element 83, one byte; 1 is video, 2 is sound. */
const VIDEO = "\x83\x81\x01";
const SOUND = "\x83\x81\x02";
const TRACKS = 8 * 1024;

/** What it is by its document type and by what its tracks hold, where they stand near its beginning. */
async function formatOf(content: ByteSource) {
  const words = new TextDecoder("latin1").decode(await some(content, 0, TRACKS));
  if (words.includes(SOUND) && !words.includes(VIDEO)) return mka;
  return words.slice(0, HEAD).includes("webm") ? webm : mkv;
}

/** Matroska (RFC 9559) over EBML (RFC 8794): a header, and one segment that says its size or is stepped through. */
export const matroska: FollowedType = {
  reach: "followed",
  formats: [mkv, webm, mka],
  firstBytes: [0x1a],
  narrow: formatOf,
  seconds: lastsFor,
  beginsBytes: 4,
  begins: (bytes, at) => be32(bytes, at) === EBML,
  async follow(source) {
    const content = windowSource(source);
    const head = await some(content, 0, HEAD);
    const first = elementAt(head, 0);
    if (first?.id !== EBML || first.size === null || first.head + first.size + 5 > head.length) return null;
    const at = first.head + first.size;
    const segment = elementAt(head, at);
    if (segment?.id !== SEGMENT) return null;
    const format = await formatOf(content);
    if (segment.size !== null) return Number.isSafeInteger(segment.size) ? within(format, content, at + segment.head + segment.size) : null;
    const walked = await overSegment(content, at + segment.head);
    return walked.clusters > 0 ? { format, length: walked.at, ends: true } : brokenOff(format, content, walked.at + MOST_UNTOLD);
  },
};

/** Segment information (RFC 9559 §5.1.2): nanoseconds of a unit, and how many units it lasts. */
const INFO = 0x1549_a966;
const UNIT = 0x2a_d7b1;
const DURATION = 0x4489;
const USUAL_UNIT = 1_000_000;
const MOST_INFO = 4096;
/** Elements before the information that are stepped over. */
const MOST_BEFORE = 64;

async function lastsFor(source: ByteSource): Promise<number | null> {
  const content = windowSource(source);
  const first = elementAt(await some(content, 0, 12), 0);
  if (first?.size == null) return null;
  let at = first.head + first.size;
  const segment = elementAt(await some(content, at, 12), 0);
  if (segment?.id !== SEGMENT) return null;
  at += segment.head;
  for (let elements = 0; elements < MOST_BEFORE; elements++) {
    const element = elementAt(await some(content, at, 12), 0);
    if (element?.size == null) return null;
    if (element.id === INFO) return secondsOf(await some(content, at + element.head, Math.min(MOST_INFO, element.size)));
    at += element.head + element.size;
  }
  return null;
}

function secondsOf(info: Uint8Array): number | null {
  const view = new DataView(info.buffer, info.byteOffset, info.byteLength);
  let unit = USUAL_UNIT;
  let units: number | null = null;
  for (let at = 0; at < info.length; ) {
    const element = elementAt(info, at);
    if (element?.size == null || at + element.head + element.size > info.length) break;
    const value = at + element.head;
    if (element.id === UNIT) unit = info.subarray(value, value + element.size).reduce((sum, byte) => sum * 256 + byte, 0);
    else if (element.id === DURATION)
      units = element.size === 4 ? view.getFloat32(value) : element.size === 8 ? view.getFloat64(value) : null;
    at = value + element.size;
  }
  return units === null ? null : (units * unit) / 1e9;
}

/** Bytes that are taken of a recording that broke off before its first cluster. */
const MOST_UNTOLD = 1024 * 1024;
