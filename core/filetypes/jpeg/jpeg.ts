import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { CheckedType, Measure } from "../file-type.ts";
import { picture } from "../format.ts";
import { endBehind } from "./end-behind.ts";
import { EntropyFeed } from "./entropy-feed.ts";
import { isFrame, isWalkableFrame, readFrame, readScan, Tables } from "./headers.ts";
import { Marker, SegmentHeader } from "./layout.ts";
import { ScanWalk } from "./scan-walk.ts";

/** Marker segments before we stop believing: far more than any camera writes. */
const MAX_SEGMENTS = 4096;
/** More bytes than one unit of a scan can take: 10 blocks of 64 coefficients of at most 32 bits. */
const UNIT_MARGIN = 4096;
/** Bytes left over at the end of what there is: less than the longest code, so that the end is to blame and not what stands there. */
const LAST_BYTES = 2;
/** Below this part of the picture, what decodes is no use to anybody. */
const LEAST_SHOWN = 0.05;

/** Where a walk ended and why; `length` counts bytes of the content. */
interface End {
  readonly length: number;
  readonly because: string;
  readonly complete: boolean;
  /** Reached its end marker, but over bits that nothing here can follow. */
  readonly unchecked?: boolean;
}

/** Walks one scan from its first entropy-coded byte. On success `marker` is the marker that ended it. */
async function walkScan(
  content: ByteSource,
  at: number,
  walk: ScanWalk,
  restartInterval: number,
): Promise<{ marker: { code: number; at: number } } | { brokeAt: number; because: string }> {
  const feed = new EntropyFeed(content, at);
  const { bits } = walk;
  await feed.fill(0);
  bits.begin(feed.bytes, 0, feed.end);
  const broke = (because: string) => ({ brokeAt: Math.max(at, feed.position - Math.max(0, bits.unusedBytes)), because });
  /** Reads on until the segment's end is known, or it is clear that bytes are left over. */
  const reachEnd = async () => {
    while (!feed.marker && !feed.exhausted && bits.unusedBytes <= 1) {
      await feed.fill(bits.at);
      bits.move(feed.bytes, 0, feed.end);
    }
  };
  while (walk.done < walk.units) {
    if (restartInterval > 0 && walk.done > 0 && walk.done % restartInterval === 0) {
      await reachEnd();
      const expected = Marker.RST0 + ((walk.done / restartInterval - 1) % 8);
      if (!bits.onlyFillLeft || feed.marker?.code !== expected) return broke("a restart marker is missing");
      feed.beginAfterMarker();
      await feed.fill(0);
      bits.begin(feed.bytes, 0, feed.end);
      walk.restart();
    }
    const unitsToRestart = restartInterval > 0 ? restartInterval - (walk.done % restartInterval) : Number.POSITIVE_INFINITY;
    const stop = Math.min(walk.units, walk.done + unitsToRestart);
    while (walk.done < stop) {
      if (bits.end - bits.at < UNIT_MARGIN && !feed.marker && !feed.exhausted) {
        await feed.fill(bits.at);
        bits.move(feed.bytes, 0, feed.end);
      }
      if (!walk.unit())
        return broke(feed.exhausted && bits.unusedBytes <= LAST_BYTES ? "the bytes end here" : "its coded picture breaks off here");
    }
  }
  await reachEnd();
  if (feed.marker && bits.onlyFillLeft && !walk.unfinishedRun) return { marker: feed.marker };
  return broke(feed.marker || bits.unusedBytes > 1 ? "bytes that do not belong to it follow its coded picture" : "the bytes end here");
}

/** One JPEG from its first byte: its segments, then its scans, to the end marker. */
class JpegWalk {
  readonly #content: ByteSource;
  readonly #tables = new Tables();
  #frame: ReturnType<typeof readFrame> = null;
  #frameSeen = false;
  #walkable = true;
  #scans = 0;
  width: number | null = null;
  height: number | null = null;
  shown = 0;
  hasExif = false;

  constructor(content: ByteSource) {
    this.#content = windowSource(content);
  }

  get scansBegun(): number {
    return this.#scans;
  }

  async run(): Promise<End> {
    const { size } = this.#content;
    let at = 2;
    for (let segments = 0; segments < MAX_SEGMENTS; segments++) {
      if (at + SegmentHeader.size > size) {
        if (at + 2 <= size && (await this.#isEnd(at))) return this.#finished(at);
        return this.#broken(at, "the bytes end here");
      }
      const header = await this.#content.read(at, SegmentHeader.size);
      const marker = SegmentHeader.marker(header, 0);
      if (SegmentHeader.prefix(header, 0) !== 0xff) return this.#broken(at, "no marker where one must be");
      if (marker === 0xff) {
        at += 1;
        continue;
      }
      if (marker === Marker.EOI) return this.#finished(at);
      const length = SegmentHeader.length(header, 0);
      if (marker < Marker.SOF0 || (marker >= Marker.RST0 && marker <= Marker.SOI) || length < 2)
        return this.#broken(at, "no marker where one must be");
      if (at + 2 + length > size) return this.#broken(at, "the bytes end here");
      const body = await this.#content.read(at + 4, length - 2);
      const next = at + 2 + length;
      if (marker === Marker.SOS) {
        const after = await this.#scan(body, next);
        if (typeof after !== "number") return after;
        at = after;
        continue;
      }
      const refusal = this.#take(marker, body);
      if (refusal) return this.#broken(at, refusal);
      at = next;
    }
    return this.#broken(at, "more marker segments than a picture can have");
  }

  async #isEnd(at: number): Promise<boolean> {
    const [prefix, marker] = await this.#content.read(at, 2);
    return prefix === 0xff && marker === Marker.EOI;
  }

  /** A segment other than a scan. @returns why it cannot be one, or null */
  #take(marker: number, body: Uint8Array): string | null {
    if (marker === Marker.DHT) return this.#tables.defineHuffman(body) ? null : "a code table that is none";
    if (marker === Marker.DQT) return this.#tables.defineQuantisation(body) ? null : "a quantisation table that is none";
    if (marker === Marker.DRI) this.#tables.restartInterval = body.length >= 2 ? (body[0] << 8) | body[1] : 0;
    if (marker === Marker.APP1 && body.length > 6 && String.fromCharCode(...body.subarray(0, 6)) === "Exif\0\0") this.hasExif = true;
    if (isFrame(marker)) {
      if (this.#frameSeen) return "a second frame header";
      this.#frameSeen = true;
      this.#frame = isWalkableFrame(marker) ? readFrame(marker, body) : null;
      this.#walkable = this.#frame !== null;
      this.height = body.length >= 5 ? (body[1] << 8) | body[2] : null;
      this.width = body.length >= 5 ? (body[3] << 8) | body[4] : null;
    }
    return null;
  }

  /** @returns where the marker after the scan stands, or how the walk ended */
  async #scan(body: Uint8Array, at: number): Promise<number | End> {
    if (!this.#frameSeen) return this.#broken(at, "a scan without a frame header");
    this.#scans++;
    if (!this.#frame) return this.#skipScan(at);
    const scan = readScan(body, this.#frame, this.#tables);
    if (!scan) return this.#broken(at, "a scan that refers to tables it does not have");
    const walk = new ScanWalk(this.#frame, scan, this.#frame.precision <= 8 ? 10 : 14);
    const end = await walkScan(this.#content, at, walk, this.#tables.restartInterval);
    if (this.#scans === 1 || !this.#frame.progressive) this.shown = Math.max(this.shown, walk.done / walk.units);
    return "marker" in end ? end.marker.at : this.#broken(end.brokeAt, end.because);
  }

  /** A scan of a kind that is not followed bit by bit: on to the marker behind it. */
  async #skipScan(at: number): Promise<number | End> {
    const feed = new EntropyFeed(this.#content, at);
    for (;;) {
      await feed.fill(feed.end);
      if (feed.exhausted) return this.#broken(feed.position, "the bytes end here");
      if (!feed.marker) continue;
      if (feed.marker.code < Marker.RST0 || feed.marker.code > Marker.RST7) return feed.marker.at;
      feed.beginAfterMarker();
    }
  }

  #finished(at: number): End {
    if (this.#scans === 0) return this.#broken(at, "an end marker before any picture");
    if (!this.#walkable)
      return { length: at + 2, complete: false, unchecked: true, because: "ends properly, but is coded in a way that cannot be checked" };
    return { length: at + 2, complete: true, because: "walked through its coded picture to its end marker" };
  }

  #broken(at: number, because: string): End {
    return { length: at, complete: false, because };
  }
}

/** ITU-T T.81 (JPEG): markers of table B.1, sequential and progressive Huffman-coded scans followed to their end. */
export const jpeg: CheckedType = {
  reach: "checked",
  formats: [picture("jpeg", "image/jpeg", ["jpg", "jpeg", "jpe"])],
  endBehind,
  beginsBytes: 4,
  firstBytes: [0xff],
  isKeptSmall: true,
  // Decoders refuse a picture without its end marker.
  mend: Uint8Array.of(0xff, Marker.EOI),
  begins: (bytes, at) => {
    if (bytes[at] !== 0xff || bytes[at + 1] !== Marker.SOI || bytes[at + 2] !== 0xff) return false;
    const marker = bytes[at + 3];
    return (
      (marker >= Marker.APP0 && marker <= Marker.APP15) ||
      marker === Marker.COM ||
      (marker >= Marker.DQT && marker <= Marker.DRI) ||
      (marker >= Marker.SOF0 && marker <= Marker.SOF2) ||
      marker === Marker.DHT
    );
  },
  async measure(content): Promise<Measure> {
    const walk = new JpegWalk(content);
    const end = await walk.run();
    const shown = walk.scansBegun > 0 ? walk.shown : 0;
    return {
      length: end.length,
      condition: end.complete ? "whole" : end.unchecked || shown >= LEAST_SHOWN ? "damaged" : "remnant",
      because: end.because,
      width: walk.width,
      height: walk.height,
      shown: end.complete ? 1 : end.unchecked ? null : shown,
      hasExif: walk.hasExif,
    };
  },
};
