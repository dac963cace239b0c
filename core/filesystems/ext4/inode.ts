import { GOOD_OLD_INODE_SIZE, Inode, InodeFlag, Mode } from "./layout.ts";

/** One version of an inode, as one of its copies tells. */
export interface InodeVersion {
  readonly number: number;
  /** Absolute byte of this copy. */
  readonly at: number;
  readonly bytes: Uint8Array;
  readonly mode: "regular" | "folder" | "other";
  readonly size: number;
  readonly links: number;
  /** Milliseconds since 1970. */
  readonly modified: number | null;
  readonly deletedAt: number;
  readonly generation: number;
  readonly flags: number;
}

/** "Inode Timestamps": 32 bits of seconds, two more and the nanoseconds in the extra field. */
function timeOf(bytes: Uint8Array): number | null {
  const seconds = Inode.i_mtime(bytes, 0) | 0;
  if (seconds === 0) return null;
  const extended = bytes.length > GOOD_OLD_INODE_SIZE && Inode.i_extra_isize(bytes, 0) >= 12;
  const extra = extended ? Inode.i_mtime_extra(bytes, 0) : 0;
  return (seconds + (extra & 3) * 2 ** 32) * 1000 + Math.floor((extra >>> 2) / 1e6);
}

/** Reads an inode's bytes. Null where nothing was ever written. */
export function readInode(bytes: Uint8Array, number: number, at: number): InodeVersion | null {
  const mode = Inode.i_mode(bytes, 0);
  if (mode === 0) return null;
  const kind = mode & Mode.mask;
  return {
    number,
    at,
    bytes,
    mode: kind === Mode.regular ? "regular" : kind === Mode.directory ? "folder" : "other",
    size: Inode.i_size_lo(bytes, 0) + Inode.i_size_high(bytes, 0) * 2 ** 32,
    links: Inode.i_links_count(bytes, 0),
    modified: timeOf(bytes),
    deletedAt: Inode.i_dtime(bytes, 0),
    generation: Inode.i_generation(bytes, 0),
    flags: Inode.i_flags(bytes, 0),
  };
}

export const has = (inode: InodeVersion, flag: keyof typeof InodeFlag): boolean => (inode.flags & InodeFlag[flag]) !== 0;

/** Present, as this copy tells: it has names, and was not deleted. */
export const isAlive = ({ links, deletedAt }: InodeVersion): boolean => links > 0 && deletedAt === 0;

/** Do two copies of one inode say the same of its content? */
export function saysTheSame(a: InodeVersion, b: InodeVersion): boolean {
  if (
    a.size !== b.size ||
    a.links !== b.links ||
    a.generation !== b.generation ||
    a.deletedAt !== b.deletedAt ||
    a.modified !== b.modified ||
    a.flags !== b.flags
  )
    return false;
  const [ours, theirs] = [Inode.i_block(a.bytes, 0), Inode.i_block(b.bytes, 0)];
  return ours.every((byte, index) => byte === theirs[index]);
}
