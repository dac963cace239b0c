import { u64 } from "../../bytes/layout.ts";
import { windowSource } from "../../bytes/window-source.ts";
import type { FollowedType } from "../file-type.ts";
import { film, sound } from "../format.ts";
import { overParts, some, within } from "./follow.ts";

const le64 = u64(0);
const wmv = film("wmv", "video/x-ms-wmv", ["wmv", "asf"]);
const wma = sound("wma", "audio/x-ms-wma");
/** "Advanced Systems Format Specification" 01.20.05 §10: objects at the top, each with sixteen bytes of its kind and eight of its size. */
const HEADER = "3026b2758e66cf11a6d900aa0062ce6c";
const DATA = "3626b2758e66cf11a6d900aa0062ce6c";
const INDEXES = [
  "90080033b1e5cf1189f400a0c90349cb",
  "d329e2d6da35d111903400a0c90349be",
  "f803b1fead12644c840f2a1d2f7ad48c",
  "d03fb73c4a0c03488395edf7b6228f0c",
];
/** §10: a stream's kind stands in its stream properties. */
const VIDEO_STREAM = "c0ef19bc4d5bcf11a8fd00805f5c442b";
/** §3.2, file properties: how long it plays, in 100 ns, and milliseconds of it that only fill buffers. */
const PROPERTIES = "a1dcab8c47a9cf118ee400c00c205365";
const PLAYS = 64;
const FILLS = 80;
const OBJECT_HEAD = 24;
const MOST_HEADER = 1024 * 1024;

const hex = (bytes: Uint8Array, at = 0, count = 16): string =>
  Array.from(bytes.subarray(at, at + count), (byte) => byte.toString(16).padStart(2, "0")).join("");
const isHeader = (bytes: Uint8Array, at: number): boolean => bytes[at + 1] === 0x26 && hex(bytes, at) === HEADER;

export const asf: FollowedType = {
  reach: "followed",
  formats: [wmv, wma],
  firstBytes: [0x30],
  beginsBytes: 30,
  begins: (bytes, at) => isHeader(bytes, at) && le64(bytes, at + 16) >= 30,
  async narrow(content) {
    const bytes = await some(content, 0, Math.min(MOST_HEADER, le64(await some(content, 16, 8), 0)));
    return hex(bytes, 0, bytes.length).includes(VIDEO_STREAM) ? wmv : wma;
  },
  async seconds(content) {
    const bytes = await some(content, 0, Math.min(MOST_HEADER, le64(await some(content, 16, 8), 0)));
    const at = hex(bytes, 0, bytes.length).indexOf(PROPERTIES) / 2;
    if (!Number.isInteger(at) || at < 0 || at + FILLS + 8 > bytes.length) return null;
    return le64(bytes, at + PLAYS) / 1e7 - le64(bytes, at + FILLS) / 1000;
  },
  async follow(source) {
    const content = windowSource(source);
    const format = (await asf.narrow?.(content)) ?? wmv;
    let claimed: number | null = null;
    const { length } = await overParts(content, 0, OBJECT_HEAD, (head, at) => {
      if (head.length < OBJECT_HEAD || ![at === 0 ? HEADER : DATA, ...INDEXES].includes(hex(head))) return null;
      const bytes = le64(head, 16);
      if (at + bytes > content.size) claimed = at + bytes;
      return { bytes };
    });
    if (claimed !== null) return within(format, content, claimed);
    return length === 0 ? null : { format, length, ends: true };
  },
};
