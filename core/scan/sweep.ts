import { extentsSource, firstBytes, totalLength } from "../bytes/extents.ts";
import { type PatientSource, unreadableIn } from "../bytes/patient-source.ts";
import { RangeSet } from "../bytes/ranges.ts";
import type { Trouble } from "../bytes/trouble.ts";
import { DECLARED_HEAD, declaredAt } from "../filetypes/declared/table.ts";
import { goesOnAt, text } from "../filetypes/declared/text.ts";
import type { FileType } from "../filetypes/file-type.ts";
import { FILE_TYPES, HEAD_BYTES, typeAt } from "../filetypes/table.ts";
import { believable, type Find, type Patch } from "../finds/find.ts";
import type { ListedFile, Volume } from "../medium/volume.ts";
import { PageType } from "../sqlite/layout.ts";
import { strayPageAt } from "../sqlite/stray.ts";
import type { SweepState } from "./checkpoint.ts";
import { type Claims, idOf } from "./claims.ts";
import { isDatabase, STRAY_FORMAT } from "./database-finds.ts";
import { declaredFind, NOTHING_KNOWN } from "./declared-find.ts";
import type { PassBatch } from "./events.ts";
import { type FreeRun, FreeSpace } from "./free-space.ts";
import { endBehindLost, gradeContent, withLost } from "./grade.ts";
import { innerFinds } from "./listed-find.ts";
import { byPlace, judgeErased } from "./listing.ts";
import type { Recollection } from "./recollection.ts";

/** Contents begin on sector boundaries at the finest. */
const SECTOR = 512;
/** Bytes of the largest page of a database. */
const LARGEST_PAGE = 65_536;

const FIRST_BYTES = new Uint8Array(256);
for (const type of FILE_TYPES) FIRST_BYTES[type.firstByte] = 1;

/** A database that the sweep found by its beginning. */
export const isSweptDatabase = (find: Find): boolean => isDatabase(find) && find.evidence[0]?.pass === "sweep";

/** The sweep: every free block by content, from where an earlier one stood. */
export class Sweep {
  readonly #source: PatientSource;
  readonly #claims: Claims;
  readonly #space: FreeSpace;
  /** Where databases lie that were found by their beginning: their pages are no stray ones. */
  readonly #databases = new RangeSet();

  constructor(source: PatientSource, runs: readonly FreeRun[], claims: Claims) {
    this.#source = source;
    this.#space = new FreeSpace(source, runs);
    this.#claims = claims;
  }

  /** Takes up what an earlier sweep knew: the databases it found, and the blocks it dug up, which are shown to their volumes again. */
  async recall(databases: readonly Find[], { dug }: SweepState, before: Recollection): Promise<void> {
    for (const { extents } of databases) for (const { offset, length } of extents) this.#databases.add(offset, length);
    const { runs } = this.#space;
    for (const at of dug) {
      const volume = runs.find(({ offset, length }) => offset <= at && at < offset + length)?.volume;
      if (!volume) continue;
      const { files } = await volume.dig(await this.#source.read(at, volume.info.clusterBytes), at);
      for (const [{ file }] of byPlace(files.filter((one) => one.erased).map((file) => ({ file, volume })))) before.judged(file);
    }
  }

  async *run(from: SweepState): AsyncGenerator<PassBatch> {
    const total = this.#space.bytes;
    let { done, busyTo, pagesTo, textTo, dug } = from;
    for await (const { window, bytes } of this.#space.read(from.done)) {
      const { index, at, length } = window;
      const run = this.#space.runs[index];
      const finds: Find[] = [];
      const patches: Patch[] = [];
      const troubles: Trouble[] = [];
      const dugHere: number[] = [];
      const clusterBytes = run.volume?.info.clusterBytes ?? 0;
      for (let within = 0; within < length; within += SECTOR) {
        if (FIRST_BYTES[bytes[within]] === 1 && at + within >= busyTo) {
          const head = within + HEAD_BYTES <= length ? bytes : await this.#space.head(index, at + within);
          const type = typeAt(head, head === bytes ? within : 0);
          if (type) busyTo = Math.max(busyTo, await this.#content(type, index, at + within, finds, patches));
        }
        if (bytes[within] === PageType.tableLeaf && at + within >= Math.max(pagesTo, busyTo))
          pagesTo = Math.max(pagesTo, await this.#pages(index, at + within, bytes, within, finds));
        if ((at + within - run.offset) % (clusterBytes || SECTOR) === 0 && at + within >= Math.max(busyTo, textTo, pagesTo))
          textTo = Math.max(textTo, await this.#declared(index, at + within, bytes, within, finds, patches));
        if (run.volume?.mayDig(bytes, within, at + within)) {
          const end = within + clusterBytes;
          // A cluster may be larger than a window: exFAT allows 32 MiB.
          const inside = end <= length || at + end > run.offset + run.length;
          const block = inside ? bytes.subarray(within, end) : await this.#source.read(at + within, clusterBytes);
          if (await this.#folder(run.volume, block, at + within, finds, patches, troubles)) dugHere.push(at + within);
        }
      }
      done += length;
      if (dugHere.length > 0) dug = [...dug, ...dugHere];
      yield { finds, patches, troubles, done, total, at: at + length, sweep: { done, busyTo, pagesTo, textTo, dug } };
    }
    const sweep = { done, busyTo, pagesTo, textTo, dug };
    for (const volume of new Set(this.#space.runs.map(({ volume }) => volume))) {
      if (!volume?.rest) continue;
      for await (const { files, troubles } of volume.rest()) {
        const judged = await this.#judge(files, volume);
        yield { ...judged, troubles, done: total, total, at: this.#space.end, sweep };
      }
    }
  }

  /** Something that says itself how long it is may begin here. @returns the byte up to which it is a text, or 0 */
  async #declared(index: number, at: number, window: Uint8Array, within: number, finds: Find[], patches: Patch[]): Promise<number> {
    const inWindow = within + DECLARED_HEAD <= window.length;
    const head = inWindow ? window.subarray(within, within + DECLARED_HEAD) : await this.#space.head(index, at, DECLARED_HEAD);
    const type = declaredAt(head, 0);
    if (!type || this.#claims.proven.overlap(at, 1) > 0) return 0;
    // Text is known by its look alone: where a record speaks of these bytes, or text stands before, it is a part of that.
    if (type === text && (this.#claims.isRecorded(at) || goesOnAt(window, within))) return 0;
    const volume = this.#space.runs[index].volume?.info.index ?? null;
    const told = await declaredFind(type, this.#source, this.#claims, this.#space.from(index, at), volume);
    if (told.find) {
      finds.push(told.find);
      if (isSweptDatabase(told.find)) for (const { offset, length } of told.find.extents) this.#databases.add(offset, length);
    }
    if (told.patch) patches.push(told.patch);
    return type === text ? at + told.length : 0;
  }

  /** Something begins here. @returns the byte up to which it is proven, or 0 */
  async #content(type: FileType, index: number, at: number, finds: Find[], patches: Patch[]): Promise<number> {
    const what = `${type.format.toUpperCase()} begins here`;
    const known = this.#claims.startingAt(at);
    if (known !== undefined) {
      patches.push({ id: known, evidence: [{ pass: "sweep", what: `${what}: found by its content too`, at }] });
      return 0;
    }
    if (this.#claims.proven.overlap(at, 1) > 0) return 0;
    const stream = this.#space.from(index, at);
    const graded = await gradeContent(type, extentsSource(this.#source, stream), false);
    const { measure } = graded;
    // A beginning without dimensions is no picture to anybody: chance bytes do that.
    if (measure.width === null || measure.length === 0) return 0;
    const extents = firstBytes(stream, (await endBehindLost(type, this.#source, stream, graded)) ?? measure.length);
    const twin = graded.condition === "remnant" ? null : await this.#claims.present.sameAs(this.#source, extents);
    if (twin !== null) {
      patches.push({ id: idOf({ at: twin }), evidence: [{ pass: "sweep", what: "an identical copy of it lies in free space", at }] });
      return 0;
    }
    const lost = unreadableIn(this.#source, extents);
    const holder = this.#holderOf(index, at);
    if (holder && typeof holder !== "string") finds.push(holder);
    const find: Find = {
      ...NOTHING_KNOWN,
      id: `b${at.toString(16)}`,
      kind: type.kind,
      format: type.format,
      ...withLost({ condition: graded.condition, because: graded.because }, lost),
      checked: true,
      size: totalLength(extents),
      taken: believable(graded.about?.taken ?? null),
      width: measure.width,
      height: measure.height,
      shown: measure.shown,
      camera: graded.about?.camera ?? null,
      place: graded.about?.place ?? null,
      extents,
      volume: this.#space.runs[index].volume?.info.index ?? null,
      inside: holder === null || typeof holder === "string" ? holder : holder.id,
      evidence: [
        { pass: "sweep", what: `${what}, in space that is free now`, at },
        { pass: "sweep", what: graded.because, at },
      ],
    };
    this.#claims.add(find);
    finds.push(find, ...(await innerFinds(find, graded, this.#source)));
    return measure.condition === "whole" ? extents[0].offset + extents[0].length : 0;
  }

  /**
   * Files begin where clusters begin. What begins elsewhere lay inside another file: an erased one that a record names, or
   * one of which nothing but this stretch is known, which is a find then too.
   */
  #holderOf(index: number, at: number): Find | string | null {
    const { volume, offset } = this.#space.runs[index];
    const clusterBytes = volume?.info.clusterBytes ?? 0;
    if (!volume || (at - offset) % clusterBytes === 0) return null;
    const start = at - ((at - offset) % clusterBytes);
    const known = this.#claims.holderOf(at);
    if (known !== null) return known;
    const because = "a stretch of a file that nothing names any more; something in it can be told apart";
    return {
      ...NOTHING_KNOWN,
      id: `s${start.toString(16)}`,
      because,
      size: clusterBytes,
      extents: [{ offset: start, length: clusterBytes }],
      volume: volume.info.index,
      evidence: [{ pass: "sweep", what: because, at: start }],
    };
  }

  /**
   * Pages of a database that lie by themselves: where no record leads to them and no database that was found goes over them.
   * Neighbours are one find. @returns the byte behind them, or 0
   */
  async #pages(index: number, at: number, window: Uint8Array, within: number, finds: Find[]): Promise<number> {
    if (this.#claims.isRecorded(at) || this.#databases.overlap(at, 1) > 0) return 0;
    const run = this.#space.runs[index];
    const left = run.offset + run.length - at;
    const inWindow = within + Math.min(left, LARGEST_PAGE) <= window.length;
    const bytes = inWindow ? window.subarray(within) : await this.#space.head(index, at, Math.min(left, LARGEST_PAGE));
    let length = 0;
    for (let size = strayPageAt(bytes, 0); size > 0; size = strayPageAt(bytes, length)) length += size;
    if (length === 0) return 0;
    const because = "pages of a database that lie by themselves; their rows are told of apart";
    finds.push({
      ...NOTHING_KNOWN,
      id: `p${at.toString(16)}`,
      kind: "database",
      format: STRAY_FORMAT,
      because,
      size: length,
      extents: [{ offset: at, length }],
      volume: this.#space.runs[index].volume?.info.index ?? null,
      evidence: [{ pass: "sweep", what: because, at }],
    });
    return at + length;
  }

  /** Blocks of erased folders that no list leads to any more. @returns whether the volume was shown it */
  async #folder(volume: Volume, block: Uint8Array, at: number, finds: Find[], patches: Patch[], troubles: Trouble[]): Promise<boolean> {
    if (block.length < volume.info.clusterBytes || this.#claims.proven.overlap(at, 1) > 0) return false;
    const dug = await volume.dig(block, at);
    troubles.push(...dug.troubles);
    const judged = await this.#judge(dug.files, volume);
    finds.push(...judged.finds);
    patches.push(...judged.patches);
    return true;
  }

  async #judge(files: readonly ListedFile[], volume: Volume): Promise<{ finds: Find[]; patches: Patch[] }> {
    const finds: Find[] = [];
    const patches: Patch[] = [];
    for (const group of byPlace(files.filter((file) => file.erased).map((file) => ({ file, volume })))) {
      const judged = await judgeErased(group, this.#claims, this.#source, "deep");
      finds.push(...judged.finds);
      patches.push(...judged.patches);
    }
    return { finds, patches };
  }
}
