import { u32 } from "../../bytes/layout.ts";
import type { ByteSource } from "../../bytes/source.ts";
import { ascii, some } from "./follow.ts";

const le32 = u32(0);
const HEAD = 32;

/** Bytes of the tag that stands behind the sound of several formats (APEv2 specification): its size is in its own head. 0: none. */
export async function apeTagBytes(content: ByteSource, at: number): Promise<number> {
  const head = await some(content, at, HEAD);
  return head.length === HEAD && ascii(head, 0, "APETAGEX") ? HEAD + le32(head, 12) : 0;
}
