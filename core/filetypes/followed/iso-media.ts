import { u32be } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { type Format, film, format, picture, sound } from "../format.ts";
import { type Box, boxAt, boxes } from "./boxes.ts";
import { ascii, brokenOff, MAX_STEPS, some } from "./follow.ts";
import { filmPixels, filmSeconds, picturePixels } from "./iso-sides.ts";

const be32 = u32be(0);
const mp4 = film("mp4", "video/mp4", ["mp4", "m4v"]);
const mov = film("mov", "video/quicktime", ["mov", "qt"]);
const threeGp = film("3gp", "video/3gpp", ["3gp", "3g2", "3gpp"]);
const m4a = sound("m4a", "audio/mp4", ["m4a", "m4b", "m4r"]);
const heic = picture("heic", "image/heic", ["heic", "heif", "hif"]);
const avif = picture("avif", "image/avif");
/** A camera's raw photo in boxes. */
const rawBoxes = format("raw", "photo", { endings: ["cr3"], preview: "image" });

function formatOfBrand(brand: string): Format {
  if (/^(heic|heix|hevc|heim|heis|mif1|msf1)/.test(brand)) return heic;
  if (brand.startsWith("avi")) return avif;
  if (/^M4[AB]/.test(brand)) return m4a;
  if (brand.startsWith("qt")) return mov;
  if (brand === "crx ") return rawBoxes;
  return brand.startsWith("3g") ? threeGp : mp4;
}

/** ISO/IEC 14496-12 §4.2: boxes one after the other, each with its size and type. */
const TOP_BOXES = new Set(
  "ftyp moov mdat free skip wide uuid moof mfra meta pnot styp sidx pdin udta emsg ssix prft mfro idat junk".split(" "),
);
const TRACKS = ["moov", "trak", "mdia"];
const HANDLER_TYPE = 8;

/** Handlers (§8.4.3) of a film's tracks: what each of them shows. */
async function handlersIn(content: ByteSource, { at, head, size }: Box, depth = 0): Promise<string[]> {
  const found: string[] = [];
  for await (const box of boxes(content, at + head, Math.min(content.size, at + (size ?? 0)))) {
    if (box.type === "hdlr") found.push(String.fromCharCode(...(await some(content, box.at + box.head + HANDLER_TYPE, 4))));
    else if (depth + 1 < TRACKS.length && box.type === TRACKS[depth + 1]) found.push(...(await handlersIn(content, box, depth + 1)));
  }
  return found;
}

/** Sound alone, whatever its brand says: a voice note. */
const isSoundOnly = (handlers: readonly string[]): boolean => handlers.includes("soun") && !handlers.includes("vide");

/** What it is: by its brand, and by what its tracks are. */
async function narrowed(content: ByteSource, index: Box | null): Promise<Format> {
  const known = formatOfBrand(String.fromCharCode(...(await some(content, 8, 4))));
  if (index === null || known.kind !== "video" || !isSoundOnly(await handlersIn(content, index))) return known;
  return known === threeGp ? { ...threeGp, kind: "audio", preview: "sound", media: "audio/3gpp" } : m4a;
}

/** ISO base media (ISO/IEC 14496-12): videos, sound, and pictures of phones. */
export const isoMedia: FollowedType = {
  reach: "followed",
  formats: [mp4, mov, threeGp, m4a, heic, avif, rawBoxes],
  firstBytes: [0],
  beginsBytes: 12,
  begins: (bytes, at) => ascii(bytes, at + 4, "ftyp") && be32(bytes, at) >= 12 && be32(bytes, at) <= 1024,
  async narrow(source) {
    const content = windowSource(source);
    for await (const box of boxes(content, 0, content.size)) {
      if (!TOP_BOXES.has(box.type)) break;
      if (box.type === "moov") return narrowed(content, box);
    }
    return narrowed(content, null);
  },
  async pixels(source) {
    const content = windowSource(source);
    return (await picturePixels(content)) ?? filmPixels(content);
  },
  seconds: (source) => filmSeconds(windowSource(source)),
  async follow(source) {
    const content = windowSource(source);
    let index: Box | null = null;
    let media = false;
    let at = 0;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const box = await boxAt(content, at);
      if (!box || box.size === null || !TOP_BOXES.has(box.type) || (steps > 0 && box.type === "ftyp")) break;
      media ||= ["mdat", "moov", "meta"].includes(box.type);
      if (at + box.size > content.size) return brokenOff(await narrowed(content, index), content, content.size);
      if (box.type === "moov") index = box;
      at += box.size;
    }
    return media ? { format: await narrowed(content, index), length: at, ends: true } : null;
  },
};
