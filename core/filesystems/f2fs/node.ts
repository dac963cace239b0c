import { inodeHolds } from "./checks.ts";
import {
  ADDRS_PER_INODE,
  Advise,
  DEFAULT_INLINE_XATTR_ADDRS,
  ExtraAttributes,
  Feature,
  FLAG_COMPRESSED,
  FOOTER_FSYNC,
  FOOTER_OFFSET_SHIFT,
  InlineFlag,
  Inode,
  Mode,
  NODE_FOOTER_AT,
  NodeFooter,
  word,
} from "./layout.ts";

/** What a node block's footer says of it. */
export interface Footer {
  readonly nid: number;
  readonly ino: number;
  /** Checkpoint that it was written after, the lower 32 bits: the upper ones may hold a check sum. */
  readonly version: number;
  readonly synced: boolean;
  /** Which node of its inode it is; 0: the inode itself. */
  readonly offset: number;
  readonly next: number;
}

export const readFooter = (block: Uint8Array): Footer => ({
  nid: NodeFooter.nid(block, NODE_FOOTER_AT),
  ino: NodeFooter.ino(block, NODE_FOOTER_AT),
  version: word(block, NODE_FOOTER_AT + NodeFooter.cp_ver.at),
  synced: (NodeFooter.flag(block, NODE_FOOTER_AT) & FOOTER_FSYNC) !== 0,
  offset: NodeFooter.flag(block, NODE_FOOTER_AT) >>> FOOTER_OFFSET_SHIFT,
  next: NodeFooter.next_blkaddr(block, NODE_FOOTER_AT),
});

/** An inode as one of its blocks tells. */
export interface InodeNode {
  readonly ino: number;
  readonly version: number;
  /** Block address of this copy. */
  readonly address: number;
  readonly mode: "regular" | "folder" | "other";
  readonly links: number;
  readonly size: number;
  readonly modified: number | null;
  /** Nanoseconds of the last change: orders copies of one checkpoint. */
  readonly changed: number;
  readonly generation: number;
  readonly parent: number;
  /** The entry that named it may have been another's: its parent is not kept up to date. */
  readonly parentLost: boolean;
  readonly name: string | null;
  readonly inlineData: boolean;
  readonly inlineFolder: boolean;
  readonly compressed: boolean;
  readonly encrypted: boolean;
  /** Where addresses, or inline content, begin in the block, in bytes, and how many addresses there are. */
  readonly addressesAt: number;
  readonly addresses: number;
  readonly nids: readonly number[];
}

/** Reads an inode block. Null where it cannot be one. `seed`: its check sum must agree, where it has one. */
export function readInode(block: Uint8Array, address: number, feature: number, seed: number | null): InodeNode | null {
  const footer = readFooter(block);
  const kind = Inode.i_mode(block, 0) & Mode.mask;
  const nameLength = Inode.i_namelen(block, 0);
  const size = Inode.i_size(block, 0);
  if (footer.nid === 0 || footer.nid !== footer.ino || kind === 0 || nameLength > 255 || !Number.isSafeInteger(size)) return null;
  const inline = Inode.i_inline(block, 0);
  const extra = (inline & InlineFlag.extra_attr) !== 0;
  const extraBytes = extra ? ExtraAttributes.i_extra_isize(block, Inode.i_addr.at) : 0;
  if (extraBytes % 4 !== 0 || extraBytes > 256) return null;
  const inlineXattr =
    (feature & Feature.flexible_inline_xattr) !== 0
      ? extra
        ? ExtraAttributes.i_inline_xattr_size(block, Inode.i_addr.at)
        : 0
      : (inline & (InlineFlag.xattr | InlineFlag.dentry)) !== 0
        ? DEFAULT_INLINE_XATTR_ADDRS
        : 0;
  const addresses = ADDRS_PER_INODE - extraBytes / 4 - inlineXattr;
  if (addresses < 1) return null;
  if (seed !== null && extraBytes > ExtraAttributes.i_inode_checksum.at && !inodeHolds(seed, block)) return null;
  const seconds = Inode.i_mtime(block, 0);
  const advise = Inode.i_advise(block, 0);
  const nids = Inode.i_nid(block, 0);
  return {
    ino: footer.ino,
    version: footer.version,
    address,
    mode: kind === Mode.regular ? "regular" : kind === Mode.directory ? "folder" : "other",
    links: Inode.i_links(block, 0),
    size,
    modified: seconds > 0 && seconds < 2 ** 36 ? seconds * 1000 + Math.floor(Inode.i_mtime_nsec(block, 0) / 1e6) : null,
    changed: Inode.i_ctime(block, 0) * 1e9 + Inode.i_ctime_nsec(block, 0),
    generation: Inode.i_generation(block, 0),
    parent: Inode.i_pino(block, 0),
    parentLost: (advise & Advise.lost_pino) !== 0,
    name: nameOf(Inode.i_name(block, 0).subarray(0, nameLength)),
    inlineData: (inline & InlineFlag.data) !== 0,
    inlineFolder: (inline & InlineFlag.dentry) !== 0,
    compressed: (Inode.i_flags(block, 0) & FLAG_COMPRESSED) !== 0,
    encrypted: (advise & Advise.encrypt) !== 0,
    addressesAt: Inode.i_addr.at + extraBytes,
    addresses,
    nids: [0, 1, 2, 3, 4].map((index) => word(nids, index * 4)),
  };
}

/** A name's bytes as text. Null: it is none. `live`: its entry stands, so that what no name can hold is only shown as lost. */
export function nameOf(bytes: Uint8Array, live = false): string | null {
  if (bytes.length === 0 || (!live && (bytes.includes(0) || bytes.includes(0x2f)))) return null;
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
  const text = new TextDecoder().decode(bytes).replace(/[\u0000/]/g, "\ufffd");
  return text === "." || text === ".." ? null : text;
}

/** Most bytes that can lie inside this inode: one address is kept free (`MAX_INLINE_DATA`). */
export const inlineBytes = ({ addresses }: InodeNode): number => (addresses - 1) * 4;
export const inlineAt = ({ addressesAt }: InodeNode): number => addressesAt + 4;
