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

/** Bytes from one packet to the next, and of what stands before each one's sync byte. Null: none begins here. */
function packetsAt(bytes: Uint8Array, at: number): { step: number; before: number } | null {
  for (const before of [0, CLOCK]) {
    const step = PACKET + before;
    let packets = 0;
    while (packets < LEAST_PACKETS && bytes[at + packets * step + before] === SYNC) packets++;
    if (packets === LEAST_PACKETS) return { step, before };
  }
  return null;
}

/** MPEG transport stream: packet after packet while each begins with its sync byte. It has no end of its own. */
export const transportStream: FollowedType = {
  reach: "followed",
  formats: [stream],
  firstBytes: null,
  beginsBytes: LEAST_PACKETS * (PACKET + CLOCK),
  byChance: true,
  begins: (bytes, at) => (bytes[at] === SYNC || bytes[at + CLOCK] === SYNC) && packetsAt(bytes, at) !== null,
  async follow(source) {
    const content = windowSource(source, 256 * 1024);
    const found = packetsAt(await some(content, 0, LEAST_PACKETS * (PACKET + CLOCK)), 0);
    if (!found) return null;
    const { step, before } = found;
    let at = 0;
    for (let packets = 0; packets < 16 * MAX_STEPS && at + step <= content.size; packets++) {
      if ((await some(content, at + before, 1))[0] !== SYNC) break;
      at += step;
    }
    return { format: stream, length: at, ends: true };
  },
};

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
