import { type Extent, extentsSource } from "../bytes/extents.ts";
import type { PatientSource } from "../bytes/patient-source.ts";
import type { Medium } from "../filesystems/open-volumes.ts";
import type { Volume } from "../filesystems/volume.ts";
import { HEAD_BYTES } from "../filetypes/table.ts";

/** Bytes read at a time: large, since browsers take as long for a small slice as for a large one. */
export const WINDOW = 4 * 1024 * 1024;
/** Windows that are read ahead: a picture that takes long to walk must not leave the reader idle. */
const AHEAD = 3;
/** Bytes and stretches that one content found by its beginning is followed over. */
const MAX_CONTENT = 512 * 1024 * 1024;
const MAX_STRETCHES = 4096;

/** A stretch that no present file uses, and the volume it belongs to (null: outside of any). */
export interface FreeRun extends Extent {
  readonly volume: Volume | null;
}

/** All that no present file uses, in order: free space of the volumes, and what lies outside of them. */
export function freeRunsOf(medium: Medium, sourceSize: number): FreeRun[] {
  const runs: FreeRun[] = [];
  let at = 0;
  const outside = (to: number) => {
    if (to > at) runs.push({ offset: at, length: to - at, volume: null });
  };
  for (const volume of [...medium.volumes].sort((a, b) => a.info.start - b.info.start)) {
    outside(volume.info.start);
    for (const run of volume.freeRuns()) runs.push({ ...run, volume });
    at = Math.max(at, volume.info.start + volume.info.length);
  }
  outside(sourceSize);
  return runs;
}

export interface Window {
  /** Which free run it lies in. */
  readonly index: number;
  readonly at: number;
  readonly length: number;
}

/** All space that no present file uses, read window by window, and followed from any place on. */
export class FreeSpace {
  readonly #source: PatientSource;
  readonly runs: readonly FreeRun[];

  constructor(source: PatientSource, runs: readonly FreeRun[]) {
    this.#source = source;
    this.runs = runs;
  }

  get bytes(): number {
    return this.runs.reduce((sum, run) => sum + run.length, 0);
  }

  /** All free bytes in the pieces they are read in. */
  *#windows(): Generator<Window> {
    for (let index = 0; index < this.runs.length; index++) {
      const { offset, length } = this.runs[index];
      for (let at = offset; at < offset + length; at += WINDOW) yield { index, at, length: Math.min(WINDOW, offset + length - at) };
    }
  }

  /** Reads windows behind the first `from` bytes of them, some ahead of what is looked at. `before`: bytes of those left out. */
  async *read(from: number): AsyncGenerator<{ window: Window; bytes: Uint8Array; before: number }> {
    let before = 0;
    const ahead: { window: Window; bytes: Promise<Uint8Array> }[] = [];
    for (const window of this.#windows()) {
      if (before + window.length <= from) {
        before += window.length;
        continue;
      }
      const bytes = this.#source.read(window.at, window.length);
      // Whoever stops in between does not wait for it: its failure is nobody's then.
      bytes.catch(() => {});
      ahead.push({ window, bytes });
      const next = ahead.length > AHEAD ? ahead.shift() : undefined;
      if (next) yield { window: next.window, bytes: await next.bytes, before };
    }
    for (const { window, bytes } of ahead) yield { window, bytes: await bytes, before };
  }

  /** Number of the run that holds a byte, or that comes next. */
  indexAt(at: number): number {
    let low = 0;
    let high = this.runs.length - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.runs[middle].offset + this.runs[middle].length > at) high = middle;
      else low = middle + 1;
    }
    return low;
  }

  get end(): number {
    const last = this.runs.at(-1);
    return last ? last.offset + last.length : 0;
  }

  async head(index: number, at: number, length = HEAD_BYTES): Promise<Uint8Array> {
    const content = extentsSource(this.#source, this.from(index, at, length));
    return content.read(0, Math.min(length, content.size));
  }

  /** The free bytes of the same volume from `at` on, what is in use skipped: `most` of them, or a little more. */
  from(index: number, at: number, most = MAX_CONTENT): Extent[] {
    const extents: Extent[] = [];
    const { volume } = this.runs[index];
    let bytes = 0;
    for (let next = index; next < this.runs.length && extents.length < MAX_STRETCHES && bytes < most; next++) {
      const run = this.runs[next];
      if (run.volume !== volume) break;
      const offset = Math.max(run.offset, at);
      extents.push({ offset, length: run.offset + run.length - offset });
      bytes += run.offset + run.length - offset;
    }
    return extents;
  }
}
