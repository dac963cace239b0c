import { acSteps, BitReader, type HuffmanTable } from "./huffman.ts";

/** One component of a frame, as its header declares it, with the state that scans of it share. */
export interface Component {
  readonly id: number;
  /** Sampling factors H and V of T.81 §A.1.1. */
  readonly h: number;
  readonly v: number;
  readonly quantTable: number;
  /** Blocks across and down without the padding to whole MCUs (§A.2.2), and across with it. */
  readonly blocksWide: number;
  readonly blocksHigh: number;
  readonly paddedWide: number;
  readonly paddedHigh: number;
  /** Progressive frames: which coefficients are not zero so far, 64 a block. */
  readonly nonZero: Uint8Array | null;
}

export interface Frame {
  readonly width: number;
  readonly height: number;
  readonly progressive: boolean;
  readonly mcusWide: number;
  readonly mcusHigh: number;
  readonly components: readonly Component[];
}

/** One scan: what is coded in it (T.81 §B.2.3) and with which tables. */
export interface Scan {
  readonly components: readonly { component: Component; dc: HuffmanTable | null; ac: HuffmanTable | null; dcLimit: number }[];
  readonly from: number;
  readonly to: number;
  readonly high: number;
  readonly low: number;
}

const NO_STEPS = new Int32Array(0);

/**
 * Walks the entropy-coded units of one scan without making a picture: only whether every code is a code, every run
 * ends within its block and every DC value is one that a picture can have. Content of another file that was written
 * into the middle betrays itself here within a few blocks.
 */
export class ScanWalk {
  readonly bits = new BitReader();
  readonly #scan: Scan;
  readonly #frame: Frame;
  readonly #steps: readonly Int32Array[];
  /** Component of each block of a unit, in order (A.2.3). */
  readonly #blocks: Uint8Array;
  readonly #predicted: Int32Array;
  /** End-of-band run of progressive AC scans (G.1.2.2). */
  #eobRun = 0;
  /** MCUs, or single blocks where the scan holds one component. */
  readonly units: number;
  done = 0;

  /** `maxAcBits`: largest size category of an AC coefficient, 10 for 8-bit samples, 14 for 12-bit ones (table F.2). */
  constructor(frame: Frame, scan: Scan, maxAcBits: number) {
    this.bits.maxAcBits = maxAcBits;
    this.#steps = scan.components.map(({ ac }) => (ac && !frame.progressive ? acSteps(ac, maxAcBits) : NO_STEPS));
    this.#blocks = Uint8Array.from(
      scan.components.flatMap(({ component }, index) =>
        new Array(scan.components.length === 1 ? 1 : component.h * component.v).fill(index),
      ),
    );
    this.#frame = frame;
    this.#scan = scan;
    this.#predicted = new Int32Array(scan.components.length);
    const [only] = scan.components;
    this.units = scan.components.length === 1 ? only.component.blocksWide * only.component.blocksHigh : frame.mcusWide * frame.mcusHigh;
  }

  /** A restart interval begins (F.2.1.3.1): predictions and runs start anew. */
  restart(): void {
    this.#predicted.fill(0);
    this.#eobRun = 0;
  }

  /** True when a run of empty blocks reaches over the end of what can follow. */
  get unfinishedRun(): boolean {
    return this.#eobRun > 0;
  }

  /** Walks one unit. False: it cannot be. */
  unit(): boolean {
    if (!this.#frame.progressive) return this.#sequentialUnit();
    const { components } = this.#scan;
    if (components.length === 1) {
      const { component } = components[0];
      const row = Math.floor(this.done / component.blocksWide);
      if (!this.#block(0, row * component.paddedWide + (this.done % component.blocksWide))) return false;
    } else {
      const mcuRow = Math.floor(this.done / this.#frame.mcusWide);
      const mcuColumn = this.done % this.#frame.mcusWide;
      for (let index = 0; index < components.length; index++) {
        const { h, v, paddedWide } = components[index].component;
        for (let y = 0; y < v; y++)
          for (let x = 0; x < h; x++) if (!this.#block(index, (mcuRow * v + y) * paddedWide + mcuColumn * h + x)) return false;
      }
    }
    this.done++;
    return !this.bits.overrun;
  }

  /** Sequential scans need no place of a block: only its component. */
  #sequentialUnit(): boolean {
    const { components } = this.#scan;
    for (const index of this.#blocks) {
      const { ac } = components[index];
      if (ac === null || !this.#dc(index) || !this.bits.skipAc(ac, this.#steps[index])) return false;
    }
    this.done++;
    return !this.bits.overrun;
  }

  #block(index: number, block: number): boolean {
    const { from, high } = this.#scan;
    const { component, ac } = this.#scan.components[index];
    if (from === 0) {
      if (high === 0) return this.#dc(index);
      this.bits.take(1);
      return true;
    }
    if (!component.nonZero || !ac) return false;
    return high === 0 ? this.#acFirst(component.nonZero, block * 64, ac) : this.#acRefine(component.nonZero, block * 64, ac);
  }

  /** F.2.2.1: the difference to the DC value before. */
  #dc(index: number): boolean {
    const { dc, dcLimit } = this.#scan.components[index];
    if (!dc) return false;
    const size = this.bits.decode(dc);
    if (size < 0 || size > 15) return false;
    if (size > 0) {
      const coded = this.bits.take(size);
      this.#predicted[index] += coded < 1 << (size - 1) ? coded - (1 << size) + 1 : coded;
    }
    return (Math.abs(this.#predicted[index]) - 1) * (1 << this.#scan.low) <= dcLimit;
  }

  /** G.1.2.2: first scan of a band of AC coefficients. */
  #acFirst(nonZero: Uint8Array, base: number, ac: HuffmanTable): boolean {
    if (this.#eobRun > 0) {
      this.#eobRun--;
      return true;
    }
    const { to } = this.#scan;
    for (let k = this.#scan.from; k <= to; k++) {
      const value = this.bits.decode(ac);
      if (value < 0) return false;
      const run = value >> 4;
      const size = value & 15;
      if (size === 0 && run < 15) {
        this.#eobRun = (1 << run) - 1 + (run > 0 ? this.bits.take(run) : 0);
        return true;
      }
      k += run;
      if (k > to) return false;
      if (size > 0) {
        this.bits.take(size);
        nonZero[base + k] = 1;
      }
    }
    return true;
  }

  /** G.1.2.3: a further bit of each coefficient of the band, and new ones between them. */
  #acRefine(nonZero: Uint8Array, base: number, ac: HuffmanTable): boolean {
    const { from, to } = this.#scan;
    let k = from;
    if (this.#eobRun === 0) {
      for (; k <= to; k++) {
        const value = this.bits.decode(ac);
        if (value < 0) return false;
        let run = value >> 4;
        const size = value & 15;
        if (size > 1) return false;
        if (size === 0 && run < 15) {
          this.#eobRun = (1 << run) + (run > 0 ? this.bits.take(run) : 0);
          break;
        }
        if (size === 1) this.bits.take(1);
        for (; k <= to; k++) {
          if (nonZero[base + k] === 1) this.bits.take(1);
          else if (--run < 0) break;
        }
        if (size === 1) {
          if (k > to) return false;
          nonZero[base + k] = 1;
        }
      }
    }
    if (this.#eobRun > 0) {
      for (; k <= to; k++) if (nonZero[base + k] === 1) this.bits.take(1);
      this.#eobRun--;
    }
    return true;
  }
}
