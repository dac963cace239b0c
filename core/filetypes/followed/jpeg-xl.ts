import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { picture } from "../format.ts";
import { boxAt } from "./boxes.ts";
import { brokenOff, MAX_STEPS } from "./follow.ts";

const jxl = picture("jxl", "image/jxl");
/** ISO/IEC 18181-2 §9.1: the signature box. A codestream without boxes begins with two bytes that tell nothing. */
const SIGNATURE = [0, 0, 0, 12, 0x4a, 0x58, 0x4c, 0x20, 0x0d, 0x0a, 0x87, 0x0a];
const BOXES = new Set(["JXL ", "ftyp", "jxlc", "jxlp", "jxll", "jxli", "jbrd", "Exif", "xml ", "jumb", "brob", "jhgm"]);

/** JPEG XL (ISO/IEC 18181-2): boxes; one that goes on to the end of the file has no end that could be followed. */
export const jpegXl: FollowedType = {
  reach: "followed",
  formats: [jxl],
  firstBytes: [0],
  beginsBytes: 12,
  begins: (bytes, at) => SIGNATURE.every((byte, index) => bytes[at + index] === byte),
  async follow(source) {
    const content = windowSource(source);
    let at = 0;
    let holds = false;
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const box = await boxAt(content, at);
      if (!box || !BOXES.has(box.type)) break;
      holds ||= box.type.startsWith("jxl");
      if (box.size === null || at + box.size > content.size) return brokenOff(jxl, content, content.size);
      at += box.size;
    }
    return holds ? { format: jxl, length: at, ends: true } : null;
  },
};
