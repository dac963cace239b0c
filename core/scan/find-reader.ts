import { extentsSource, onMedium } from "../bytes/extents.ts";
import { hashOf } from "../bytes/hash.ts";
import { type PatientSource, unreadableIn } from "../bytes/patient-source.ts";
import { RangeSet } from "../bytes/ranges.ts";
import { formatNamed } from "../filetypes/table.ts";
import type { Find, Patch } from "../finds/find.ts";
import { isOwnFile } from "../medium/own-files.ts";
import { DatabaseFinds } from "./database-finds.ts";
import type { PassBatch, ScanOptions } from "./events.ts";
import { readThrough, withLost } from "./grade.ts";
import { LentNames, type Listed } from "./lent-names.ts";
import { LostPlaces } from "./lost-places.ts";
import { isLookedInto, isTold, type Scope } from "./scope.ts";

/** Bytes from which on what a head claims is no small matter. */
const LARGE_CLAIM = 16 * 1024 * 1024;

/** Every find of all passes goes through here before it is told: what its bytes say when they are read, and what of them cannot be. */
export class FindReader {
  readonly #source: PatientSource;
  readonly #options: ScanOptions;
  readonly databases = new DatabaseFinds();
  readonly #places = new LostPlaces();
  /** Bytes that were hashed for finds of which nothing but a head and its claim is known. */
  readonly #claimed = new RangeSet();

  /** Names that media lists lend. */
  readonly lent: LentNames;

  constructor(source: PatientSource, options: ScanOptions, listed: readonly Listed[]) {
    this.#source = source;
    this.#options = options;
    this.lent = new LentNames(listed);
  }

  /** Archives and backups that were found, in the order they were told: what lies in them is told of later. */
  readonly holders = new Map<string, Find>();
  #noteHolder(find: Find): void {
    if (formatNamed(find.format).opens !== null && find.inside === null && find.extents.length > 0) this.holders.set(find.id, find);
  }

  #noteRecords(find: Find): void {
    if (this.#isOwn(find)) this.databases.noteAsked(find);
    else this.databases.note(find);
  }

  /** A find that was told before a break. */
  recall(find: Find): void {
    this.#noteHolder(find);
    this.#noteRecords(find);
    this.#places.note(find);
    this.lent.note(find);
    if (isLargeClaim(find)) for (const { offset, length } of onMedium(find.extents)) this.#claimed.add(offset, length);
  }

  /** What of a batch is told, and what only a scan that goes on must know. */
  async read({ finds: found, patches, records = [] }: PassBatch): Promise<{ finds: Find[]; besides: Find[] }> {
    const finds: Find[] = [];
    const besides: Find[] = [];
    for (const find of found) {
      this.#noteRecords(find);
      this.#noteHolder(find);
      this.lent.note(find);
    }
    for (const patch of patches) {
      this.databases.patch(patch);
      this.lent.patch(patch);
    }
    this.lent.see(records);
    for (const find of found) {
      if (this.#isOwn(find)) besides.push(find);
      else if (isTold(this.#options, find)) finds.push(await this.#readOf(find));
      else besides.push(find);
    }
    return { finds, besides };
  }

  /** A find that a narrower scan knew, and did not tell: as this one tells it. Null: it was told, is not asked for, or is still to be looked into. */
  async shown(find: Find, from: Scope): Promise<Find | null> {
    const isDue = isTold(this.#options, find) && !isTold(from, find) && isLookedInto(from, find);
    return isDue && !this.#isOwn(find) ? this.#readOf(find) : null;
  }

  /** Own files are told of as what they hold. */
  #isOwn = ({ path, volume }: Find): boolean => isOwnFile(path) && volume !== null && this.archives.has(volume);

  /** Volumes that are archives: only in a copy of shared storage are there files of our own. */
  archives: ReadonlySet<number> = new Set();

  /** A find with what its bytes tell when they are read: present files that nothing walks too, so that a dead place in them is told here and not at hand-over. */
  async #readOf(find: Find): Promise<Find> {
    const { sha256, depth } = this.#options;
    // What lies in an archive was read through, and hashed, when it was opened.
    const isRead = find.packed !== undefined || find.sha256 !== null;
    if (!isRead && sha256 && find.extents.length > 0 && this.#isWorthHashing(find))
      find.sha256 = await hashOf(extentsSource(this.#source, find.extents), sha256);
    else if (!isRead && depth === "deep" && find.state !== "erased" && !find.checked) await readThrough(this.#source, find.extents);
    const held = withLost(find, unreadableIn(this.#source, find.extents));
    this.#places.note(held);
    return held;
  }

  #isWorthHashing(find: Find): boolean {
    if (!isLargeClaim(find)) return true;
    const stretches = onMedium(find.extents);
    const known = stretches.reduce((sum, { offset, length }) => sum + this.#claimed.overlap(offset, length), 0);
    for (const { offset, length } of stretches) this.#claimed.add(offset, length);
    // Several heads that claim the same space: at most one of them is right, and each would cost all of it.
    return known * 2 <= find.size;
  }

  /** What is told of finds once more, now that it is known what cannot be read. */
  lostPatches(): Patch[] {
    return this.#places.patches(this.#source.unreadable);
  }
}

const isLargeClaim = ({ checked, size, evidence }: Find): boolean => !checked && size > LARGE_CLAIM && evidence[0]?.pass === "sweep";
