import { u16, u32, u64 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { type Format, film as moving, sound } from "../format.ts";
import { ascii, MAX_STEPS, some } from "./follow.ts";

const le16 = u16(0);
const le32 = u32(0);
const le64 = u64(0);
const vorbis = sound("ogg", "audio/ogg", ["ogg", "oga", "spx"]);
const opus = sound("opus", "audio/ogg");
const film = moving("ogv", "video/ogg", ["ogv", "ogm"]);
/** The first pages say what the streams are: bytes that are looked at. */
const HEAD = 256;

function formatOf(head: Uint8Array): Format {
  const words = String.fromCharCode(...head);
  if (words.includes("\x80theora")) return film;
  return words.includes("OpusHead") ? opus : vorbis;
}

/** Bytes of the end that the last page stands in: a page has 65,307 at most. */
const TAIL = 66_000;

/**
 * How long it is: the last page says how many samples there were until then (RFC 3533 §6). Opus counts at 48 kHz and says how many to leave out at its
 * beginning (RFC 7845 §4, §5.1); Vorbis says its rate ("Vorbis I specification" §4.2.2).
 */
async function lastsFor(content: ByteSource): Promise<number | null> {
  const head = await some(content, 0, HEAD);
  const page = head.length > 27 ? 27 + head[26] : head.length;
  const isOpus = ascii(head, page, "OpusHead");
  if (!isOpus && !ascii(head, page, "\x01vorbis")) return null;
  const rate = isOpus ? OPUS_RATE : le32(head, page + 12);
  const before = isOpus ? le16(head, page + 10) : 0;
  const tail = await some(content, Math.max(0, content.size - TAIL), TAIL);
  for (let at = tail.length - 27; at >= 0; at--)
    if (ascii(tail, at, "OggS\0") && (tail[at + 5] & 4) !== 0 && rate > 0) return Math.max(0, le64(tail, at + 6) - before) / rate;
  return null;
}
const OPUS_RATE = 48_000;

/** Ogg (RFC 3533 §6): pages with a table of segment lengths; the last one of a stream bears flag 4. */
export const ogg: FollowedType = {
  reach: "followed",
  formats: [vorbis, opus, film],
  firstBytes: [0x4f],
  beginsBytes: 27,
  begins: (bytes, at) => ascii(bytes, at, "OggS\0\x02"),
  narrow: async (content) => formatOf(await some(content, 0, HEAD)),
  seconds: lastsFor,
  async follow(source) {
    const content = windowSource(source);
    const format = formatOf(await some(content, 0, HEAD));
    let at = 0;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const head = await some(content, at, 27 + 255);
      if (head.length < 27 || !ascii(head, 0, "OggS\0") || head.length < 27 + head[26]) break;
      const length = 27 + head[26] + head.subarray(27, 27 + head[26]).reduce((sum, part) => sum + part, 0);
      if (at + length > content.size) break;
      at += length;
      if ((head[5] & 4) !== 0) return { format, length: at, ends: true };
    }
    return at === 0 ? null : { format, length: at, ends: false };
  },
};
