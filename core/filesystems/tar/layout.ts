import { latin, layout, raw } from "../../bytes/layout.ts";

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

/** The GNU program's own header ("GNU tar" manual, Basic Tar Format: oldgnu_header), where ustar has its prefix. */
export const GnuHeader = layout(512, {
  /** Four stretches of a sparse file. */
  sp: raw(386, 4 * 24),
  isextended: latin(482, 1),
  realsize: latin(483, 12),
});
/** A block that goes on with the stretches of a sparse file (struct sparse_header). */
export const SparseBlock = layout(512, { sp: raw(0, 21 * 24), isextended: latin(504, 1) });
/** One stretch (struct sparse): where it begins in the file, and how many bytes it has. */
export const SparsePiece = layout(24, { offset: latin(0, 12), numbytes: latin(12, 12) });

export const BLOCK = TarHeader.size;
export const MAGIC = "ustar";
/** The GNU program writes a space behind it: then no prefix stands in the header. */
export const GNU_MAGIC = "ustar ";
/** What an entry is, by typeflag. Capitals are the GNU program's. */
export const Type = {
  file: "0",
  oldFile: "\0",
  link: "1",
  contiguous: "7",
  extended: "x",
  global: "g",
  longName: "L",
  longLink: "K",
  sparse: "S",
} as const;

/** Content takes whole blocks. */
export const padded = (size: number): number => Math.ceil(size / BLOCK) * BLOCK;

/** Sum of all bytes of a header, its own sum read as spaces. Some old programs took bytes as signed. */
export function headerSum(block: Uint8Array, signed = false): number {
  let sum = 0;
  for (let at = 0; at < BLOCK; at++) {
    const own = at >= TarHeader.chksum.at && at < TarHeader.chksum.at + TarHeader.chksum.bytes;
    sum += own ? 0x20 : signed ? (block[at] << 24) >> 24 : block[at];
  }
  return sum;
}
