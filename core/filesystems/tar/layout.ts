import { latin, layout } from "../../bytes/layout.ts";

/** A tar archive's header block (POSIX.1-1988 "ustar", IEEE Std 1003.1, pax: ustar Interchange Format). Numbers are octal text. */
export const TarHeader = layout(512, {
  name: latin(0, 100),
  mode: latin(100, 8),
  uid: latin(108, 8),
  gid: latin(116, 8),
  /** The standard's "size": a layout has a size of its own. */
  bytes: latin(124, 12),
  mtime: latin(136, 12),
  chksum: latin(148, 8),
  typeflag: latin(156, 1),
  linkname: latin(157, 100),
  magic: latin(257, 6),
  version: latin(263, 2),
  uname: latin(265, 32),
  gname: latin(297, 32),
  devmajor: latin(329, 8),
  devminor: latin(337, 8),
  prefix: latin(345, 155),
});

export const BLOCK = TarHeader.size;
export const MAGIC = "ustar";
/** What an entry is, by typeflag. */
export const Type = { file: "0", oldFile: "\0", extended: "x" } as const;

/** Content takes whole blocks. */
export const padded = (size: number): number => Math.ceil(size / BLOCK) * BLOCK;

/** Sum of all bytes of a header, its own sum read as spaces. */
export function headerSum(block: Uint8Array): number {
  let sum = 0;
  for (let at = 0; at < BLOCK; at++) {
    const own = at >= TarHeader.chksum.at && at < TarHeader.chksum.at + TarHeader.chksum.bytes;
    sum += own ? 0x20 : block[at];
  }
  return sum;
}
