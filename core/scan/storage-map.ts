import type { Extent } from "../bytes/extents.ts";

/** What lies in one cell of the map, drawn as a thin band. */
export const Cell = { used: 0, free: 1, searched: 2, unreadable: 3 } as const;

/** A medium seen from far away: `cells` equal stretches from its start to its end. */
export class StorageMap {
  readonly size: number;
  readonly cells: Uint8Array;
  /** Erased finds that begin in each cell. */
  readonly strokes: Uint16Array;

  constructor(size: number, cells: number, freeRuns: readonly Extent[]) {
    this.size = size;
    this.strokes = new Uint16Array(cells);
    this.cells = new Uint8Array(cells);
    const freeBytes = new Float64Array(cells);
    const cellBytes = size / cells;
    for (const { offset, length } of freeRuns) {
      const last = Math.min(cells - 1, Math.floor((offset + length - 1) / cellBytes));
      for (let cell = Math.floor(offset / cellBytes); cell <= last; cell++)
        freeBytes[cell] += Math.min(offset + length, (cell + 1) * cellBytes) - Math.max(offset, cell * cellBytes);
    }
    for (let cell = 0; cell < cells; cell++) this.cells[cell] = freeBytes[cell] * 2 > cellBytes ? Cell.free : Cell.used;
  }

  cellAt(offset: number): number {
    return Math.min(this.cells.length - 1, Math.floor((offset / this.size) * this.cells.length));
  }

  /** Free cells before this byte were searched. */
  searchedTo(offset: number): void {
    const end = offset >= this.size ? this.cells.length : this.cellAt(offset);
    for (let cell = 0; cell < end; cell++) if (this.cells[cell] === Cell.free) this.cells[cell] = Cell.searched;
  }

  found(offset: number): void {
    const cell = this.cellAt(offset);
    if (this.strokes[cell] < 0xffff) this.strokes[cell]++;
  }

  unreadable(extents: readonly Extent[]): void {
    for (const { offset, length } of extents) this.cells.fill(Cell.unreadable, this.cellAt(offset), this.cellAt(offset + length - 1) + 1);
  }
}
