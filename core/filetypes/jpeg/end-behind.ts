import type { Extent } from "../../bytes/extents.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import { Marker, SegmentHeader } from "./layout.ts";

/** Bytes looked at behind lost ones: more than any camera writes. */
const MOST = 64 * 1024 * 1024;
/** Zeros in a row that no coded picture holds: what lies there was never part of it. */
const MOST_ZEROS = 512;
const PIECE = 64 * 1024;

/** Segments that stand between the scans of a picture (ITU-T T.81 §B.2.1): tables, restart intervals, the next scan. */
const BETWEEN_SCANS: readonly number[] = [Marker.DHT, Marker.DQT, Marker.DRI, Marker.SOS, Marker.COM];

/**
 * Follows coded data behind lost bytes by its markers alone (ITU-T T.81 §B.1.1.5: in it 0xFF is followed by zero or a restart marker). Other
 * bytes break that rule within a few hundred, so an end marker that is reached so is the picture's own.
 */
export async function endBehind(source: ByteSource, brokeAt: number, lost: readonly Extent[]): Promise<number | null> {
  const cause = lost.findLastIndex(({ offset }) => offset <= brokeAt);
  if (cause < 0) return null;
  const content = windowSource(source);
  let at = lost[cause].offset + lost[cause].length;
  let next = cause + 1;
  const end = Math.min(content.size, at + MOST);
  let zeros = 0;
  while (at < end) {
    if (lost[next] && lost[next].offset <= at) {
      at = Math.max(at, lost[next].offset + lost[next].length);
      next++;
      zeros = 0;
      continue;
    }
    const bytes = await content.read(at, Math.min(PIECE, (lost[next]?.offset ?? end) - at, end - at));
    let within = 0;
    for (; within < bytes.length; within++) {
      const byte = bytes[within];
      zeros = byte === 0 ? zeros + 1 : 0;
      if (zeros > MOST_ZEROS) return null;
      if (byte === 0xff) break;
    }
    at += within;
    if (within === bytes.length) continue;
    if (at + 2 > content.size) return null;
    const marker = (await content.read(at, 2))[1];
    if (marker === Marker.EOI) return at + 2;
    if (marker === 0xff) at += 1;
    else if (marker === 0 || (marker >= Marker.RST0 && marker <= Marker.RST7)) at += 2;
    else if (BETWEEN_SCANS.includes(marker) && at + SegmentHeader.size <= content.size)
      at += 2 + Math.max(2, SegmentHeader.length(await content.read(at, SegmentHeader.size), 0));
    // The second half of a pair whose first one is lost, or no picture.
    else if (lost.some((one) => one.offset + one.length === at)) at += 1;
    else return null;
  }
  return null;
}
