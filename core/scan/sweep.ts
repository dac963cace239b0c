import type { PatientSource } from "../bytes/patient-source.ts";
import { RangeSet } from "../bytes/ranges.ts";
import type { Trouble } from "../bytes/trouble.ts";
import { HEAD_BYTES, typeOfHead } from "../filetypes/table.ts";
import type { Find, Patch } from "../finds/find.ts";
import type { SweepState } from "./checkpoint.ts";
import type { Claims } from "./claims.ts";
import { type Detector, SECTOR, Sector, type Seen } from "./detect/detector.ts";
import { FormerRegions } from "./detect/former-regions.ts";
import { Marks } from "./detect/marks.ts";
import { DETECTORS } from "./detect/table.ts";
import type { PassBatch } from "./events.ts";
import { type FreeRun, FreeSpace } from "./free-space.ts";
import type { Recollection } from "./recollection.ts";

/** Sectors that a detector may keep: what comes after is not decided on. */
const MAX_KEPT = 200_000;

/** What was seen in one window. */
interface Told {
  readonly finds: Find[];
  readonly patches: Patch[];
  readonly troubles: Trouble[];
}

/** The sweep: moves over all free space, window by window, from where an earlier one stood, and shows each sector to all detectors. */
export class Sweep {
  readonly #space: FreeSpace;
  readonly #databases = new RangeSet();
  readonly #detectors: readonly Detector[];
  readonly #marks: Marks;
  readonly #busy = new Map<string, number>();
  readonly #kept = new Map<string, readonly number[]>();

  constructor(source: PatientSource, runs: readonly FreeRun[], claims: Claims) {
    this.#space = new FreeSpace(source, runs);
    const former = new FormerRegions(source, runs, claims);
    const bench = { source, claims, space: this.#space, databases: this.#databases, former };
    this.#detectors = DETECTORS.map((make) => make(bench));
    this.#marks = new Marks(this.#detectors);
  }

  /** Takes up what an earlier sweep knew: the databases it found, and what each detector must be shown again. */
  async recall(databases: readonly Find[], { detectors }: SweepState, before: Recollection): Promise<void> {
    for (const { extents } of databases) for (const { offset, length } of extents) this.#databases.add(offset, length);
    for (const detector of this.#detectors) {
      const { busyTo = 0, kept = [] } = detectors[detector.name] ?? {};
      this.#busy.set(detector.name, busyTo);
      this.#kept.set(detector.name, kept);
      await detector.recall?.(kept, before);
    }
  }

  async *run(from: SweepState): AsyncGenerator<PassBatch> {
    const total = this.#space.bytes;
    let { done } = from;
    for await (const { window, bytes } of this.#space.read(done)) {
      const { index, at, length } = window;
      const told = await this.#look(index, at, bytes.subarray(0, length));
      done += length;
      yield { ...told, done, total, at: at + length, sweep: this.#state(done) };
    }
    for (const detector of this.#detectors) {
      if (!detector.rest) continue;
      for await (const { finds, patches, troubles } of detector.rest(this.#kept.get(detector.name) ?? []))
        yield { finds, patches, troubles, done: total, total, at: this.#space.end, sweep: this.#state(done) };
    }
  }

  #state(done: number): SweepState {
    const stateOf = ({ name }: Detector) => ({ busyTo: this.#busy.get(name) ?? 0, kept: this.#kept.get(name) ?? [] });
    return { done, detectors: Object.fromEntries(this.#detectors.map((detector) => [detector.name, stateOf(detector)])) };
  }

  /** One window, sector by sector. */
  async #look(index: number, start: number, bytes: Uint8Array): Promise<Told> {
    const told: Told = { finds: [], patches: [], troubles: [] };
    const kept = new Map<string, number[]>();
    const sector = new Sector(index, this.#space.runs[index], start, bytes);
    let until = this.#untils();
    for (let within = 0; within < bytes.length; within += SECTOR) {
      let bits = this.#marks.at(bytes, within, sector.isOnGrid(within));
      if (bits === 0) continue;
      if (within + HEAD_BYTES <= bytes.length) sector.moveTo(within);
      else sector.moveTo(within, typeOfHead(await this.#space.head(index, start + within, HEAD_BYTES)));
      for (let number = 0; bits !== 0; number++, bits >>>= 1) {
        if ((bits & 1) === 0 || sector.at < until[number] || !this.#detectors[number].wants(sector)) continue;
        const detector = this.#detectors[number];
        this.#take(detector, await detector.look(sector), sector.at, told, kept);
        until = this.#untils();
      }
    }
    for (const [name, places] of kept) this.#kept.set(name, [...(this.#kept.get(name) ?? []), ...places].slice(0, MAX_KEPT));
    return told;
  }

  /** Up to which byte each detector has no business. */
  #untils(): number[] {
    return this.#detectors.map(({ stopsFor }) => Math.max(0, ...stopsFor.map((name) => this.#busy.get(name) ?? 0)));
  }

  #take({ name }: Detector, { finds, patches, troubles, busyTo, keep }: Seen, at: number, told: Told, kept: Map<string, number[]>): void {
    told.finds.push(...finds);
    told.patches.push(...patches);
    told.troubles.push(...troubles);
    if (busyTo > (this.#busy.get(name) ?? 0)) this.#busy.set(name, busyTo);
    if (!keep) return;
    const places = kept.get(name);
    if (places) places.push(at);
    else kept.set(name, [at]);
  }
}
