import { Polynomial, runningCrc } from "../../bytes/hash.ts";
import { u32be } from "../../bytes/layout.ts";
import type { PatientSource } from "../../bytes/patient-source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import {
  BLOCK_TAIL,
  Commit,
  JOURNAL_MAGIC,
  JournalBlock,
  JournalHeader,
  JournalIncompat,
  JournalSuper,
  Revoke,
  Tag,
  Tag3,
  TagFlag,
  UUID_BYTES,
} from "./journal-layout.ts";

/** An older or newer content of one block of the volume, kept by the journal. */
export interface BlockCopy {
  /** Block of the volume that it was written for. */
  readonly block: number;
  /** Transaction. */
  readonly sequence: number;
  /** Absolute byte of the copy. */
  readonly at: number;
  /** Its first four bytes were the journal's magic, and are zeros in the copy. */
  readonly escaped: boolean;
}

export interface Journal {
  /** Every copy that a descriptor still tells of, oldest transaction first. */
  readonly copies: BlockCopy[];
  /** What mounting would write back: the newest copy of each block, for a volume that was not cleanly unmounted. */
  readonly replay: Map<number, BlockCopy>;
  readonly troubles: Trouble[];
  /** Transactions that would be replayed, and the number of the first of them. */
  readonly replayed: number;
  readonly replayFrom: number;
  /** Block types that were met, for reports: descriptor, commit, revoke. */
  readonly met: { descriptor: number; commit: number; revoke: number };
}

interface Format {
  readonly blockBytes: number;
  readonly count: number;
  readonly first: number;
  /** Blocks at its end that hold fast commits, no transactions. */
  readonly end: number;
  readonly sequence: number;
  readonly start: number;
  readonly incompat: number;
  readonly seed: number;
}

/** Copies that are remembered: a journal of 1 GiB. */
const MAX_COPIES = 1 << 18;
const DEFAULT_FAST_COMMIT_BLOCKS = 256;
const storedSum = u32be(0);
/** Sequence numbers wrap: a difference below half the range is "later". */
export const isLater = (a: number, b: number): boolean => a !== b && (a - b) >>> 0 < 0x8000_0000;

function readFormat(bytes: Uint8Array, blockBytes: number, there: number): Format | null {
  if (JournalSuper.h_magic(bytes, 0) !== JOURNAL_MAGIC || JournalSuper.s_blocksize(bytes, 0) !== blockBytes) return null;
  const type = JournalSuper.h_blocktype(bytes, 0);
  if (type !== JournalBlock.superV1 && type !== JournalBlock.superV2) return null;
  const incompat = type === JournalBlock.superV2 ? JournalSuper.s_feature_incompat(bytes, 0) : 0;
  const count = Math.min(JournalSuper.s_maxlen(bytes, 0), there);
  const fast = (incompat & JournalIncompat.fast_commit) !== 0 ? JournalSuper.s_num_fc_blks(bytes, 0) || DEFAULT_FAST_COMMIT_BLOCKS : 0;
  const first = JournalSuper.s_first(bytes, 0);
  if (first < 1 || first >= count) return null;
  return {
    blockBytes,
    count,
    first,
    end: Math.max(first, count - fast),
    sequence: JournalSuper.s_sequence(bytes, 0),
    start: JournalSuper.s_start(bytes, 0),
    incompat,
    seed: runningCrc(Polynomial.crc32c, 0xffff_ffff, JournalSuper.s_uuid(bytes, 0)),
  };
}

interface TagRead {
  readonly block: number;
  readonly flags: number;
  readonly checksum: number | null;
}

/** The tags of a descriptor block, as many as make sense. */
function readTags(bytes: Uint8Array, { incompat }: Format): TagRead[] {
  const v3 = (incompat & JournalIncompat.csum_v3) !== 0;
  const v2 = (incompat & JournalIncompat.csum_v2) !== 0;
  const wide = (incompat & JournalIncompat.bit64) !== 0;
  const size = v3 ? Tag3.size : (wide ? 12 : 8) + (v2 ? 2 : 0);
  const end = bytes.length - (v2 || v3 ? BLOCK_TAIL : 0);
  const tags: TagRead[] = [];
  for (let at = JournalHeader.size; at + size <= end; ) {
    const flags = v3 ? Tag3.t_flags(bytes, at) : Tag.t_flags(bytes, at);
    const high = wide ? (v3 ? Tag3.t_blocknr_high(bytes, at) : Tag.t_blocknr_high(bytes, at)) : 0;
    tags.push({
      block: Tag.t_blocknr(bytes, at) + high * 2 ** 32,
      flags,
      checksum: v3 ? Tag3.t_checksum(bytes, at) : v2 ? Tag.t_checksum(bytes, at) : null,
    });
    at += size + ((flags & TagFlag.sameUuid) === 0 ? UUID_BYTES : 0);
    if ((flags & TagFlag.last) !== 0) break;
  }
  return tags;
}

function readRevoked(bytes: Uint8Array, { incompat }: Format): number[] {
  const wide = (incompat & JournalIncompat.bit64) !== 0;
  const end = Math.min(Revoke.r_count(bytes, 0), bytes.length);
  const blocks: number[] = [];
  for (let at = Revoke.size; at + (wide ? 8 : 4) <= end; at += wide ? 8 : 4) {
    const high = JournalHeader.h_magic(bytes, at);
    blocks.push(wide ? high * 2 ** 32 + JournalHeader.h_magic(bytes, at + 4) : high);
  }
  return blocks;
}

/** Reads a journal through the places of its blocks: everything that a descriptor tells of, and what mounting would replay. */
class JournalReader {
  readonly #source: PatientSource;
  readonly #places: readonly number[];
  readonly #format: Format;
  readonly met = { descriptor: 0, commit: 0, revoke: 0 };

  constructor(source: PatientSource, places: readonly number[], format: Format) {
    this.#source = source;
    this.#places = places;
    this.#format = format;
  }

  #read(index: number): Promise<Uint8Array> {
    return this.#source.read(this.#places[index], this.#format.blockBytes);
  }

  async #header(index: number): Promise<{ type: number; sequence: number; bytes: Uint8Array } | null> {
    if (index >= this.#format.end) return null;
    const bytes = await this.#read(index);
    if (JournalHeader.h_magic(bytes, 0) !== JOURNAL_MAGIC) return null;
    return { type: JournalHeader.h_blocktype(bytes, 0), sequence: JournalHeader.h_sequence(bytes, 0), bytes };
  }

  #copy(tag: TagRead, sequence: number, index: number): BlockCopy {
    return { block: tag.block, sequence, at: this.#places[index], escaped: (tag.flags & TagFlag.escape) !== 0 };
  }

  /** All copies, in whatever order the circle holds them: a descriptor's data runs up to the next block with a header. */
  async everything(): Promise<BlockCopy[]> {
    const copies: BlockCopy[] = [];
    const { first, end } = this.#format;
    const next = (index: number) => (index + 1 >= end ? first : index + 1);
    for (let index = first; index < end && copies.length < MAX_COPIES; index++) {
      const header = await this.#header(index);
      if (!header) continue;
      if (header.type === JournalBlock.commit) this.met.commit++;
      if (header.type === JournalBlock.revoke) this.met.revoke++;
      if (header.type !== JournalBlock.descriptor) continue;
      this.met.descriptor++;
      let data = next(index);
      for (const tag of readTags(header.bytes, this.#format)) {
        if (data === index || (await this.#header(data))) break;
        copies.push(this.#copy(tag, header.sequence, data));
        data = next(data);
      }
    }
    return copies.sort((a, b) => (a.sequence === b.sequence ? 0 : isLater(a.sequence, b.sequence) ? 1 : -1));
  }

  /** "Recovery": transactions from `s_start` on while their numbers follow and their commit block is there; revoked blocks left out. */
  async replay(): Promise<{ replay: Map<number, BlockCopy>; replayed: number; troubles: Trouble[] }> {
    const replay = new Map<number, BlockCopy>();
    const revoked = new Map<number, number>();
    const troubles: Trouble[] = [];
    const { first, end } = this.#format;
    let { start: index, sequence } = this.#format;
    if (index === 0) return { replay, replayed: 0, troubles };
    const written: BlockCopy[] = [];
    let replayed = 0;
    let pending: BlockCopy[] = [];
    let pendingRevokes: number[] = [];
    const step = (by: number) => {
      index += by;
      if (index >= end) index = first + ((index - end) % (end - first));
    };
    for (let steps = 0; steps < end; steps++) {
      const header = await this.#header(index);
      if (!header || header.sequence !== sequence) break;
      if (!this.#blockHolds(header)) {
        troubles.push({
          what: "a transaction of the journal does not agree with its check sum: it and later ones are not replayed",
          at: this.#places[index],
          length: this.#format.blockBytes,
        });
        break;
      }
      step(1);
      if (header.type === JournalBlock.descriptor) {
        for (const tag of readTags(header.bytes, this.#format)) {
          const copy = this.#copy(tag, sequence, index);
          if (tag.checksum === null || (await this.#dataHolds(copy, tag.checksum))) pending.push(copy);
          else
            troubles.push({
              what: "a block of the journal does not agree with its check sum, and is not replayed",
              at: copy.at,
              length: this.#format.blockBytes,
            });
          step(1);
          steps++;
        }
      } else if (header.type === JournalBlock.revoke) pendingRevokes.push(...readRevoked(header.bytes, this.#format));
      else if (header.type === JournalBlock.commit) {
        written.push(...pending);
        for (const block of pendingRevokes) revoked.set(block, sequence);
        pending = [];
        pendingRevokes = [];
        replayed++;
        sequence = (sequence + 1) >>> 0;
      } else break;
    }
    for (const copy of written) {
      const until = revoked.get(copy.block);
      if (until === undefined || isLater(copy.sequence, until)) replay.set(copy.block, copy);
    }
    return { replay, replayed, troubles };
  }

  /** Descriptor and revoke blocks of checksummed journals have their sum at their end, commit blocks in their header. */
  #blockHolds({ type, bytes }: { type: number; bytes: Uint8Array }): boolean {
    if ((this.#format.incompat & (JournalIncompat.csum_v2 | JournalIncompat.csum_v3)) === 0) return true;
    const at =
      type === JournalBlock.commit
        ? Commit.h_chksum.at
        : type === JournalBlock.descriptor || type === JournalBlock.revoke
          ? bytes.length - BLOCK_TAIL
          : null;
    if (at === null) return true;
    const copy = bytes.slice();
    copy.fill(0, at, at + 4);
    return runningCrc(Polynomial.crc32c, this.#format.seed, copy) === storedSum(bytes, at);
  }

  async #dataHolds(copy: BlockCopy, stored: number): Promise<boolean> {
    const { sequence } = copy;
    const number = Uint8Array.of(sequence >>> 24, (sequence >>> 16) & 0xff, (sequence >>> 8) & 0xff, sequence & 0xff);
    const sum = runningCrc(
      Polynomial.crc32c,
      runningCrc(Polynomial.crc32c, this.#format.seed, number),
      await this.#source.read(copy.at, this.#format.blockBytes),
    );
    return (this.#format.incompat & JournalIncompat.csum_v3) !== 0 ? sum === stored : (sum & 0xffff) === stored;
  }
}

/**
 * Reads a journal. `places`: absolute byte of each of its blocks, in order. `dirty`: the volume says that it must be replayed.
 * Null: there is no journal in these blocks.
 */
export async function readJournal(
  source: PatientSource,
  places: readonly number[],
  blockBytes: number,
  dirty: boolean,
): Promise<Journal | null> {
  if (places.length < 2) return null;
  const format = readFormat(await source.read(places[0], blockBytes), blockBytes, places.length);
  if (!format) return null;
  const reader = new JournalReader(source, places, format);
  const copies = await reader.everything();
  const { replay, replayed, troubles } = dirty ? await reader.replay() : { replay: new Map(), replayed: 0, troubles: [] };
  return { copies, replay, replayed, replayFrom: format.sequence, troubles, met: reader.met };
}

/** The bytes of a copy, with the magic put back where it was escaped. */
export async function copyBytes(source: PatientSource, copy: BlockCopy, blockBytes: number): Promise<Uint8Array> {
  const bytes = await source.read(copy.at, blockBytes);
  if (!copy.escaped) return bytes;
  const whole = bytes.slice();
  whole.set([0xc0, 0x3b, 0x39, 0x98], 0);
  return whole;
}
