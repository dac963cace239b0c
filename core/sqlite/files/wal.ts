import { equalBytes } from "../../bytes/equal.ts";
import type { ByteSource } from "../../bytes/source.ts";
import type { Trouble } from "../../bytes/trouble.ts";
import { FrameHeader, isPageSize, WAL_MAGIC, WalHeader } from "../format/layout.ts";
import { u32 } from "../format/page.ts";

/** A page as the write-ahead log holds it. */
export interface Frame {
  readonly page: number;
  /** Byte offset of the page in the log. */
  readonly at: number;
  /** Database size in pages where a transaction ends, else 0. */
  readonly pagesAfter: number;
  /** Part of what a reader of the database sees. Else: left from before the log was begun anew, or never committed. */
  readonly current: boolean;
}

export interface Wal {
  readonly pageSize: number;
  /** In the order of time, oldest first. */
  readonly frames: readonly Frame[];
  readonly troubles: readonly Trouble[];
}

/** The running check sum of a log over whole pairs of words (§4.2 of "Database File Format"). */
export function walSum(bytes: Uint8Array, start: readonly [number, number], bigEndian: boolean): [number, number] {
  let [s0, s1] = start;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  for (let at = 0; at + 8 <= bytes.length; at += 8) {
    s0 = (s0 + view.getUint32(at, !bigEndian) + s1) >>> 0;
    s1 = (s1 + view.getUint32(at + 4, !bigEndian) + s0) >>> 0;
  }
  return [s0, s1];
}

/**
 * Reads all frames of a write-ahead log: those that count, those of older generations behind them, and those never committed.
 * @returns null where its header is none. Source: "Database File Format" §4
 */
export async function readWal(source: ByteSource): Promise<Wal | null> {
  if (source.size < WalHeader.size) return null;
  const head = await source.read(0, WalHeader.size);
  const magic = WalHeader.magic(head, 0);
  const pageSize = WalHeader.pageSize(head, 0);
  if ((magic & ~1) !== WAL_MAGIC || !isPageSize(pageSize)) return null;
  const bigEndian = (magic & 1) === 1;
  const salt = WalHeader.salt(head, 0).slice();
  let sum = walSum(head.subarray(0, 24), [0, 0], bigEndian);
  let holds = sum[0] === WalHeader.sum1(head, 0) && sum[1] === WalHeader.sum2(head, 0);
  const troubles: Trouble[] = holds ? [] : [{ what: "the check sum of the log's header is wrong", at: 0, length: WalHeader.size }];
  const read: { page: number; at: number; pagesAfter: number; isNow: boolean; age: number }[] = [];
  let lastCommit = -1;
  const step = FrameHeader.size + pageSize;
  for (let at = WalHeader.size; at + step <= source.size; at += step) {
    const frame = await source.read(at, step);
    const page = FrameHeader.page(frame, 0);
    const frameSalt = FrameHeader.salt(frame, 0);
    const isNow = holds && equalBytes(frameSalt, salt);
    if (isNow) {
      sum = walSum(frame.subarray(0, 8), sum, bigEndian);
      sum = walSum(frame.subarray(FrameHeader.size), sum, bigEndian);
    }
    holds = isNow && sum[0] === FrameHeader.sum1(frame, 0) && sum[1] === FrameHeader.sum2(frame, 0);
    if (page === 0 || page > 0x7fff_ffff) continue;
    const pagesAfter = FrameHeader.pagesAfter(frame, 0);
    if (holds && pagesAfter > 0) lastCommit = read.length;
    // The first salt grows by one each time that the log is begun anew.
    const age = (u32(salt, 0) - u32(frameSalt, 0)) >>> 0;
    read.push({ page, at: at + FrameHeader.size, pagesAfter, isNow: holds, age });
  }
  const frames = read.map((frame, index) => ({ ...frame, current: frame.isNow && index <= lastCommit, index }));
  frames.sort((a, b) => b.age - a.age || a.index - b.index);
  return { pageSize, frames: frames.map(({ page, at, pagesAfter, current }) => ({ page, at, pagesAfter, current })), troubles };
}
