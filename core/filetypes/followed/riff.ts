import { u32 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { FollowedType } from "../file-type.ts";
import { film, format, picture, sound } from "../format.ts";
import { ascii, some, within } from "./follow.ts";

const le32 = u32(0);
const wav = sound("wav", "audio/wav", ["wav", "wave"]);
const avi = film("avi", "video/x-msvideo");
const webp = picture("webp", "image/webp");
const midi = format("rmi", "audio", { preview: "sound" });
const cursor = format("ani", "other");
/** The form that stands behind the size says what it is. */
const FORMS = { WAVE: wav, "AVI ": avi, WEBP: webp, RMID: midi, ACON: cursor } as const;
const formAt = (bytes: Uint8Array, at: number) => Object.entries(FORMS).find(([form]) => ascii(bytes, at, form))?.[1] ?? null;

/** Segments of one recording before we stop believing: each holds up to 1 GiB. */
const MAX_SEGMENTS = 256;

/**
 * RIFF ("Multimedia Programming Interface and Data Specifications 1.0", 1991): a size behind the tag, then what it holds. A long
 * AVI goes on in further segments of the form AVIX ("OpenDML AVI File Format Extensions" 1.02, §3).
 */
export const riff: FollowedType = {
  reach: "followed",
  formats: [wav, avi, webp, midi, cursor],
  firstBytes: [0x52],
  beginsBytes: 12,
  begins: (bytes, at) => ascii(bytes, at, "RIFF") && formAt(bytes, at + 8) !== null,
  narrow: async (content: ByteSource) => formAt(await some(content, 8, 4), 0) ?? wav,
  async follow(content) {
    const head = await some(content, 0, 12);
    const found = formAt(head, 8);
    let length = le32(head, 4) + 8;
    if (!found || length < 20) return null;
    length += length & 1;
    for (let segments = 0; found === avi && segments < MAX_SEGMENTS; segments++) {
      const next = await some(content, length, 12);
      if (next.length < 12 || !ascii(next, 0, "RIFF") || !ascii(next, 8, "AVIX")) break;
      length += 8 + le32(next, 4);
    }
    return within(found, content, length);
  },
};
