import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { type Format, film as moving, sound } from "../format.ts";
import { ascii, MAX_STEPS, some } from "./follow.ts";

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

/** Ogg (RFC 3533 §6): pages with a table of segment lengths; the last one of a stream bears flag 4. */
export const ogg: FollowedType = {
  reach: "followed",
  formats: [vorbis, opus, film],
  firstBytes: [0x4f],
  beginsBytes: 27,
  begins: (bytes, at) => ascii(bytes, at, "OggS\0\x02"),
  narrow: async (content) => formatOf(await some(content, 0, HEAD)),
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
