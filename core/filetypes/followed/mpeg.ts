import { u16be } from "../../bytes/layout.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { film } from "../format.ts";
import { MAX_STEPS, overParts, some } from "./follow.ts";

const be16 = u16be(0);
const stream = film("ts", "video/mp2t", ["ts", "mts", "m2ts", "m2t"]);
const program = film("mpg", "video/mpeg", ["mpg", "mpeg", "vob", "m2p"]);

/** ISO/IEC 13818-1 §2.4.3.2: packets of 188 bytes that begin with 47; cameras put four bytes of a clock before each. */
const PACKET = 188;
const SYNC = 0x47;
const CLOCK = 4;
/** Packets that must follow each other before chance is left behind. */
const LEAST_PACKETS = 5;

/** Do packets follow each other from here on, each with its sync byte behind `before` bytes? */
function arePackets(bytes: Uint8Array, at: number, before: number): boolean {
  for (let packet = 0; packet < LEAST_PACKETS; packet++) if (bytes[at + packet * (PACKET + before) + before] !== SYNC) return false;
  return true;
}

/** MPEG transport stream: packet after packet while each begins with its sync byte. It has no end of its own. */
const packetsBehind = (before: number): FollowedType => ({
  reach: "followed",
  formats: [stream],
  firstBytes: [SYNC],
  markAt: before,
  beginsBytes: LEAST_PACKETS * (PACKET + before),
  byChance: true,
  begins: (bytes, at) => arePackets(bytes, at, before),
  async follow(source) {
    const content = windowSource(source, 256 * 1024);
    const step = PACKET + before;
    let at = 0;
    for (let packets = 0; packets < 16 * MAX_STEPS && at + step <= content.size; packets++) {
      if ((await some(content, at + before, 1))[0] !== SYNC) break;
      at += step;
    }
    return { format: stream, length: at, ends: true };
  },
});
export const transportStream = packetsBehind(0);
export const clockedTransportStream = packetsBehind(CLOCK);

/** §2.5.3: start codes of a pack, of its system header, of packets, and of the end. */
const Code = { pack: 0xba, system: 0xbb, end: 0xb9, firstPacket: 0xbc } as const;
const PACK_HEAD = 14;

/** Bytes of what begins with a start code. 0: none, or nothing that can stand in a program stream. */
function unitBytes(head: Uint8Array): number {
  if (head.length < 4 || head[0] !== 0 || head[1] !== 0 || head[2] !== 1) return 0;
  if (head[3] === Code.end) return 4;
  if (head[3] === Code.pack) {
    if (head.length < PACK_HEAD) return 0;
    // MPEG-2 says how many bytes of stuffing follow; MPEG-1 (ISO/IEC 11172-1 §2.4.3.2) has none.
    return (head[4] & 0xc0) === 0x40 ? PACK_HEAD + (head[13] & 7) : (head[4] & 0xf0) === 0x20 ? 12 : 0;
  }
  return head.length >= 6 && head[3] >= Code.system ? 6 + be16(head, 4) : 0;
}

/** MPEG program stream (ISO/IEC 13818-1 §2.5, ISO/IEC 11172-1): packs and packets with their lengths. */
export const programStream: FollowedType = {
  reach: "followed",
  formats: [program],
  firstBytes: [0],
  beginsBytes: PACK_HEAD + 4,
  begins(bytes, at) {
    if (bytes[at + 2] !== 1 || bytes[at + 3] !== Code.pack || bytes[at + 1] !== 0) return false;
    const pack = unitBytes(bytes.subarray(at, at + PACK_HEAD));
    return pack > 0 && (pack > PACK_HEAD || (bytes[at + pack] === 0 && bytes[at + pack + 1] === 0 && bytes[at + pack + 2] === 1));
  },
  async follow(source) {
    const content = windowSource(source, 256 * 1024);
    const { length, parts } = await overParts(content, 0, PACK_HEAD, (head) => {
      const bytes = unitBytes(head);
      return bytes === 0 ? null : { bytes, last: head[3] === Code.end };
    });
    // Recorders that are switched off write no end code: behind the last whole packet nothing of it stands.
    return parts < 4 ? null : { format: program, length, ends: true };
  },
};
