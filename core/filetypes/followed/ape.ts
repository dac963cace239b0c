import { u16, u32 } from "../../bytes/layout.ts";
import type { FollowedType } from "../file-type.ts";
import { sound } from "../format.ts";
import { apeTagBytes } from "./ape-tag.ts";
import { ascii, some, within } from "./follow.ts";

const le16 = u16(0);
const le32 = u32(0);
const packed = sound("ape", "audio/x-ape");
/** From this version on a descriptor says the bytes of every part (common practice, no source). */
const WITH_DESCRIPTOR = 3980;
const DESCRIPTOR = 52;
/** Parts whose bytes the descriptor says: itself, header, seek table, header of the original, frames (and how often 4 GiB more), its tail. */
const PARTS = [8, 12, 16, 20, 24, 32];

export const ape: FollowedType = {
  reach: "followed",
  formats: [packed],
  firstBytes: [0x4d],
  beginsBytes: DESCRIPTOR,
  begins: (bytes, at) =>
    ascii(bytes, at, "MAC ") && le16(bytes, at + 4) >= WITH_DESCRIPTOR && le32(bytes, at + 8) >= DESCRIPTOR && le32(bytes, at + 8) < 4096,
  async follow(content) {
    const head = await some(content, 0, DESCRIPTOR);
    const length = PARTS.reduce((sum, at) => sum + le32(head, at), 0) + le32(head, 28) * 2 ** 32;
    return within(packed, content, length + (await apeTagBytes(content, length)));
  },
};
