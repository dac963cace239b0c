import type { PatientSource } from "../../bytes/patient-source.ts";
import { isAllZero } from "../../bytes/zeros.ts";
import type { Geometry, Log, Pack } from "./geometry.ts";
import {
  BLOCK_BYTES,
  CheckpointFlag,
  half,
  JOURNAL_AT,
  JOURNAL_BYTES,
  NAT_PER_BLOCK,
  NatEntry,
  NatJournalEntry,
  SIT_PER_BLOCK,
  SitEntry,
  SitJournalEntry,
  SUMMARY_COUNT,
  SUMMARY_FOOTER_AT,
  Summary,
  SummaryType,
} from "./layout.ts";

/** Bits of F2FS's bitmaps stand from the highest of a byte on (`f2fs_test_bit`). */
const bitAt = (bitmap: Uint8Array, index: number): boolean => (bitmap[index >> 3] & (0x80 >> (index & 7))) !== 0;

/** Bytes of tables read at a time. */
const WINDOW = 1024 * 1024;

/** What wrote a block last. */
export interface Writer {
  readonly nid: number;
  readonly place: number;
}

/** Node address table, segment information and summaries as one checkpoint has them, journals laid over. */
export class Tables {
  readonly #source: PatientSource;
  readonly #geometry: Geometry;
  /** NAT blocks that are not all zeros. */
  readonly #nat = new Map<number, Uint8Array>();
  readonly #natJournal = new Map<number, number>();
  /** 64 bytes a segment: which of its blocks are in use. */
  readonly valid: Uint8Array;
  /** By segment: does it hold nodes, as its summary says? */
  readonly holdsNodes: Uint8Array;
  /** Summaries of segments being written to, where the medium has an older one. */
  readonly #current = new Map<number, { bytes: Uint8Array; entriesAt: number; next: number }>();

  private constructor(source: PatientSource, geometry: Geometry) {
    this.#source = source;
    this.#geometry = geometry;
    this.valid = new Uint8Array(geometry.mainSegments * 64);
    this.holdsNodes = new Uint8Array(geometry.mainSegments);
  }

  static async read(source: PatientSource, geometry: Geometry, pack: Pack): Promise<Tables> {
    const tables = new Tables(source, geometry);
    await tables.#readSit(pack);
    await tables.#readNat(pack);
    await tables.#readSummaryTypes();
    await tables.#readJournals(pack);
    return tables;
  }

  async #block(address: number, count = 1): Promise<Uint8Array | null> {
    const at = this.#geometry.start + address * BLOCK_BYTES;
    return at >= 0 && at + count * BLOCK_BYTES <= this.#source.size ? this.#source.read(at, count * BLOCK_BYTES) : null;
  }

  /** Runs over table blocks in large pieces. */
  async *#blocks(address: number, count: number): AsyncGenerator<{ index: number; bytes: Uint8Array }> {
    const piece = WINDOW / BLOCK_BYTES;
    for (let first = 0; first < count; first += piece) {
      const most = Math.min(piece, count - first);
      const bytes = await this.#block(address + first, most);
      for (let index = 0; bytes && index < most; index++)
        yield { index: first + index, bytes: bytes.subarray(index * BLOCK_BYTES, (index + 1) * BLOCK_BYTES) };
    }
  }

  /** "Segment Information Table": two copies of each block, a bit of the checkpoint says which holds. */
  async #readSit({ sitBitmap }: Pack): Promise<void> {
    const { sitAt, sitSegments, blocksPerSegment, mainSegments } = this.#geometry;
    const half = Math.floor(sitSegments / 2) * blocksPerSegment;
    const count = Math.min(half, Math.ceil(mainSegments / SIT_PER_BLOCK));
    for (const copy of [0, 1])
      for await (const { index, bytes } of this.#blocks(sitAt + copy * half, count)) {
        if (bitAt(sitBitmap, index) !== (copy === 1)) continue;
        for (let entry = 0; entry < SIT_PER_BLOCK && index * SIT_PER_BLOCK + entry < mainSegments; entry++)
          this.valid.set(SitEntry.valid_map(bytes, entry * SitEntry.size), (index * SIT_PER_BLOCK + entry) * 64);
      }
  }

  /** "Node Address Table": blocks of both copies lie in turns of a segment (`current_nat_addr`). */
  async #readNat({ natBitmap }: Pack): Promise<void> {
    const { natAt, natSegments, blocksPerSegment } = this.#geometry;
    const pairs = Math.floor(natSegments / 2);
    for (let pair = 0; pair < pairs; pair++)
      for (const copy of [0, 1])
        for await (const { index, bytes } of this.#blocks(natAt + (pair * 2 + copy) * blocksPerSegment, blocksPerSegment)) {
          const block = pair * blocksPerSegment + index;
          if (block >= natBitmap.length * 8) return;
          if (bitAt(natBitmap, block) !== (copy === 1) || isAllZero(bytes)) continue;
          this.#nat.set(block, bytes.slice());
        }
  }

  async #readSummaryTypes(): Promise<void> {
    for await (const { index, bytes } of this.#blocks(this.#geometry.ssaAt, this.#geometry.mainSegments))
      this.holdsNodes[index] = bytes[SUMMARY_FOOTER_AT] === SummaryType.node && !isAllZero(bytes) ? 1 : 0;
  }

  /** Summaries of the logs and the journals in them, in the checkpoint pack: compact, or a block each. */
  async #readJournals(pack: Pack): Promise<void> {
    const { flags, dataLogs, nodeLogs } = pack;
    for (const { segment } of nodeLogs) if (segment < this.#geometry.mainSegments) this.holdsNodes[segment] = 1;
    const at = pack.at + pack.startSummary;
    if ((flags & CheckpointFlag.compact_sum) !== 0) await this.#readCompact(at, dataLogs);
    else {
      const blocks = await Promise.all(dataLogs.map((_, index) => this.#block(at + index)));
      blocks.forEach((bytes, index) => {
        if (bytes) this.#keep(bytes, 0, dataLogs[index]);
      });
      if (blocks[0]) this.#takeNat(blocks[0], JOURNAL_AT);
      if (blocks[2]) this.#takeSit(blocks[2], JOURNAL_AT);
    }
    if ((flags & CheckpointFlag.umount) === 0) return;
    const first = at + ((flags & CheckpointFlag.compact_sum) !== 0 ? this.#compactBlocks(dataLogs) : 3);
    for (const [index, log] of nodeLogs.entries()) {
      const bytes = await this.#block(first + index);
      if (bytes) this.#keep(bytes, 0, log);
    }
  }

  /** Entries of a compact summary: behind two journals in its first block, up to a footer's place in the others. */
  #compactEntries(logs: readonly Log[]): number {
    return logs.reduce((sum, { next, fresh }) => sum + (fresh ? next : SUMMARY_COUNT), 0);
  }

  #compactBlocks(logs: readonly Log[]): number {
    const inFirst = Math.floor((SUMMARY_FOOTER_AT - 2 * JOURNAL_BYTES) / Summary.size);
    const entries = this.#compactEntries(logs);
    return entries <= inFirst ? 1 : 1 + Math.ceil((entries - inFirst) / Math.floor(SUMMARY_FOOTER_AT / Summary.size));
  }

  async #readCompact(at: number, logs: readonly Log[]): Promise<void> {
    let block = await this.#block(at);
    if (!block) return;
    this.#takeNat(block, 0);
    this.#takeSit(block, JOURNAL_BYTES);
    let from = 2 * JOURNAL_BYTES;
    let address = at;
    for (const log of logs) {
      const bytes = new Uint8Array(BLOCK_BYTES);
      const count = Math.min(SUMMARY_COUNT, log.fresh ? log.next : SUMMARY_COUNT);
      for (let entry = 0; entry < count && block; entry++) {
        if (from + Summary.size > SUMMARY_FOOTER_AT) {
          block = await this.#block(++address);
          from = 0;
          if (!block) break;
        }
        bytes.set(block.subarray(from, from + Summary.size), entry * Summary.size);
        from += Summary.size;
      }
      this.#keep(bytes, 0, log);
    }
  }

  #keep(bytes: Uint8Array, entriesAt: number, { segment, next, fresh }: Log): void {
    if (segment < this.#geometry.mainSegments)
      this.#current.set(segment, { bytes: bytes.slice(), entriesAt, next: fresh ? next : SUMMARY_COUNT });
  }

  #takeNat(bytes: Uint8Array, at: number): void {
    const count = Math.min(half(bytes, at), Math.floor((JOURNAL_BYTES - 2) / NatJournalEntry.size));
    for (let index = 0; index < count; index++) {
      const base = at + 2 + index * NatJournalEntry.size;
      this.#natJournal.set(NatJournalEntry.nid(bytes, base), NatJournalEntry.block_addr(bytes, base));
    }
  }

  #takeSit(bytes: Uint8Array, at: number): void {
    const count = Math.min(half(bytes, at), Math.floor((JOURNAL_BYTES - 2) / SitJournalEntry.size));
    for (let index = 0; index < count; index++) {
      const base = at + 2 + index * SitJournalEntry.size;
      const segment = SitJournalEntry.segno(bytes, base);
      if (segment < this.#geometry.mainSegments) this.valid.set(SitJournalEntry.valid_map(bytes, base), segment * 64);
    }
  }

  /** Nodes written and synced after the checkpoint: mounting would take them over ("roll-forward recovery"). */
  override(nid: number, address: number): void {
    this.#natJournal.set(nid, address);
  }

  /** Block address of a node as it stands; 0: there is none. */
  addressOf(nid: number): number {
    const journal = this.#natJournal.get(nid);
    if (journal !== undefined) return journal;
    const bytes = this.#nat.get(Math.floor(nid / NAT_PER_BLOCK));
    return bytes ? NatEntry.block_addr(bytes, (nid % NAT_PER_BLOCK) * NatEntry.size) : 0;
  }

  /** Numbers of all inodes that stand. */
  *inodes(): Generator<number> {
    for (const [block, bytes] of this.#nat)
      for (let entry = 0; entry < NAT_PER_BLOCK; entry++) {
        const nid = block * NAT_PER_BLOCK + entry;
        if (
          !this.#natJournal.has(nid) &&
          NatEntry.ino(bytes, entry * NatEntry.size) === nid &&
          NatEntry.block_addr(bytes, entry * NatEntry.size) > 0
        )
          yield nid;
      }
    for (const [nid, address] of this.#natJournal) if (address > 0) yield nid;
  }

  /** More than any node's number can be. */
  get nodeLimit(): number {
    return Math.floor(this.#geometry.natSegments / 2) * this.#geometry.blocksPerSegment * NAT_PER_BLOCK;
  }

  isInMain(address: number): boolean {
    const { mainAt, mainSegments, blocksPerSegment } = this.#geometry;
    return address >= mainAt && address < mainAt + mainSegments * blocksPerSegment;
  }

  isValid(address: number): boolean {
    const index = address - this.#geometry.mainAt;
    return bitAt(this.valid, index);
  }

  #lastSummary: { segment: number; bytes: Uint8Array | null } | null = null;

  /** Who wrote a block of the main area last, as the summaries say. Null: nothing is known. */
  async writerOf(address: number): Promise<Writer | null> {
    const { mainAt, blocksPerSegment, ssaAt } = this.#geometry;
    const segment = Math.floor((address - mainAt) / blocksPerSegment);
    const within = (address - mainAt) % blocksPerSegment;
    const current = this.#current.get(segment);
    const known = current && within < current.next ? { bytes: current.bytes, at: current.entriesAt } : null;
    if (!known && this.#lastSummary?.segment !== segment) this.#lastSummary = { segment, bytes: await this.#block(ssaAt + segment) };
    const bytes = known?.bytes ?? this.#lastSummary?.bytes;
    if (!bytes || (!known && bytes[SUMMARY_FOOTER_AT] !== SummaryType.data)) return null;
    const at = (known?.at ?? 0) + within * Summary.size;
    const nid = Summary.nid(bytes, at);
    return nid === 0 ? null : { nid, place: Summary.ofs_in_node(bytes, at) };
  }
}
