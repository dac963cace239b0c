import type { FollowedType } from "../file-type.ts";
import { written } from "../format.ts";
import { ZeroWatch } from "./borne-out.ts";
import { ascii, brokenOff, some } from "./follow.ts";

const pages = written("pdf", "pages", "application/pdf");

/** Bytes of a PDF in which no object begins or ends: the longest stream that is believed. */
const MOST_SILENT = 32 * 1024 * 1024;
const ENDOBJ = [0x65, 0x6e, 0x64, 0x6f, 0x62, 0x6a];
function holdsObjects(bytes: Uint8Array): boolean {
  for (let at = bytes.indexOf(ENDOBJ[0]); at >= 0; at = bytes.indexOf(ENDOBJ[0], at + 1))
    if (ENDOBJ.every((byte, index) => bytes[at + index] === byte)) return true;
  return false;
}

/** ISO 32000-1 §7.5.5: `%%EOF` ends it; an update may go on behind it with another object. */
export const pdf: FollowedType = {
  reach: "followed",
  formats: [pages],
  firstBytes: [0x25],
  beginsBytes: 8,
  begins: (bytes, at) => ascii(bytes, at, "%PDF-1.") || ascii(bytes, at, "%PDF-2."),
  async follow(content) {
    const STEP = 256 * 1024;
    const MOST = 256 * 1024 * 1024;
    const zeros = new ZeroWatch();
    let spoken = 0;
    for (let at = 0; at < Math.min(content.size, MOST); at += STEP) {
      const bytes = await some(content, at, STEP + 64);
      if (holdsObjects(bytes)) spoken = at;
      // Its objects follow each other: where none is met for long, or nothing was ever written, it was cut off.
      if (zeros.sees(bytes) || at - spoken > MOST_SILENT) return brokenOff(pages, content, spoken + STEP);
      for (let found = bytes.indexOf(0x25); found >= 0 && found < STEP; found = bytes.indexOf(0x25, found + 1)) {
        if (!ascii(bytes, found, "%%EOF")) continue;
        let end = found + 5;
        if (bytes[end] === 0x0d) end++;
        if (bytes[end] === 0x0a) end++;
        const goesOn = bytes[end] >= 0x30 && bytes[end] <= 0x39;
        if (!goesOn) return { format: pages, length: at + end, ends: true };
      }
    }
    return brokenOff(pages, content, STEP);
  },
};
