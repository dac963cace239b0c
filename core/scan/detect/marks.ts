import type { Detector } from "./detector.ts";

/** Which detectors may want a sector, by a few of its bytes: one bit for each of them, looked up in tables. */
export class Marks {
  readonly #tables: { readonly at: number; readonly bits: Uint32Array }[] = [];
  /** Those that may want any sector, and of these the ones that want only such as begin a cluster. */
  readonly #any: number;
  readonly #onGrid: number;

  constructor(detectors: readonly Detector[]) {
    const tables = new Map<number, Uint32Array>();
    let any = 0;
    let onGrid = 0;
    for (const [number, { marks, onGridOnly }] of detectors.entries()) {
      const bit = 1 << number;
      if (onGridOnly) onGrid |= bit;
      if (marks === null) any |= bit;
      for (const { at, bytes } of marks ?? []) {
        const table = tables.get(at) ?? new Uint32Array(256);
        tables.set(at, table);
        for (const byte of bytes) table[byte] |= bit;
      }
    }
    for (const [at, bits] of tables) this.#tables.push({ at, bits });
    this.#any = any;
    this.#onGrid = onGrid;
  }

  /** Bits of the detectors that may want the sector at `within`. */
  at(bytes: Uint8Array, within: number, onGrid: boolean): number {
    let bits = this.#any;
    for (const table of this.#tables) bits |= table.bits[bytes[within + table.at]];
    return onGrid ? bits : bits & ~this.#onGrid;
  }
}
