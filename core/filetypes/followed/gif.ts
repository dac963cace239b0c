import { u16 } from "../../bytes/layout.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { picture } from "../format.ts";
import { ascii, brokenOff, MAX_STEPS, some } from "./follow.ts";

const le16 = u16(0);
/** §18, logical screen descriptor: width and height behind the six letters. */
const SCREEN = 6;
const animated = picture("gif", "image/gif");

/** GIF89a specification: blocks with their lengths, ended by a trailer (3B). */
export const gif: FollowedType = {
  reach: "followed",
  formats: [animated],
  firstBytes: [0x47],
  beginsBytes: 13,
  begins: (bytes, at) => ascii(bytes, at, "GIF87a") || ascii(bytes, at, "GIF89a"),
  async pixels(content) {
    const screen = await some(content, SCREEN, 4);
    return screen.length < 4 ? null : { width: le16(screen, 0), height: le16(screen, 2) };
  },
  async follow(source) {
    const content = windowSource(source);
    const colours = (flags: number) => ((flags & 0x80) !== 0 ? 3 * 2 ** ((flags & 7) + 1) : 0);
    const broken = (length: number) => brokenOff(animated, content, length);
    let at = 13 + colours((await some(content, 10, 1))[0]);
    for (let steps = 0; steps < MAX_STEPS; steps++) {
      const head = await some(content, at, 11);
      if (head[0] === 0x3b) return { format: animated, length: at + 1, ends: true };
      if (head[0] === 0x21) at += 2;
      else if (head[0] === 0x2c && head.length >= 10) at += 11 + colours(head[9]);
      else return broken(at);
      for (let length = 1; length > 0; ) {
        const [next] = await some(content, at, 1);
        if (next === undefined || ++steps > MAX_STEPS) return broken(at);
        length = next;
        at += 1 + length;
      }
    }
    return broken(at);
  },
};
