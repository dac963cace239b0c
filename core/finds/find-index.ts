import { onMedium } from "../bytes/extents.ts";
import { Combinations, GONE } from "./combinations.ts";
import { ERASED, FacetCounts, FIRST_SANE, failsOfClasses, LAST_SANE, NO_DAY } from "./facet-counts.ts";
import { FactTable } from "./fact-table.ts";
import { CONDITIONS, type Find, KINDS, timeOf } from "./find.ts";
import { classOf, placesOf } from "./find-class.ts";
import { FindColumns, Names } from "./find-columns.ts";
import { FilterRoom, filterRows, type OwnFilters } from "./find-filter.ts";
import { gathered, groupingBy, groupsOf } from "./find-groups.ts";
import { findKey, type KeptAt, partsOfKey } from "./find-key.ts";
import { FindOrders, NAMELESS, orderingBy } from "./find-orders.ts";
import type { Answer, Query } from "./find-query.ts";
import { FindWords } from "./find-words.ts";
import { type FolderCount, FolderTable, folderKey } from "./folder-table.ts";
import { KeyTable } from "./key-table.ts";
import { NameChains } from "./name-chains.ts";
import { oneByOne, WordMatches } from "./word-matches.ts";

const DAY = 86_400_000;

/**
 * The columns of a ticket's finds, of all its media, that are filtered and sorted by, in flat arrays: 200,000 rows answer within a frame or
 * two. Rows are numbered in the order they came; a find that comes again keeps its row.
 */
export class FindIndex {
  readonly #columns = new FindColumns();
  readonly #facts = new FactTable();
  readonly #combinations = new Combinations();
  readonly #cameras = new Names<string | null>();
  readonly #mediaIds: number[] = [];
  /** First and last day of all finds that a clock in use can show. */
  #firstDay = LAST_SANE + 1;
  #lastDay = FIRST_SANE - 1;
  #isSpanOld = false;
  readonly #room = new FilterRoom();
  /** Rows that are no finds any more. */
  #gone = 0;
  readonly #folders = new FolderTable();
  readonly #names: string[] = [];
  readonly #spoken = new FindWords(this.#columns, this.#folders, this.#cameras, this.#names);
  readonly #matches = new WordMatches((word) => oneByOne(this.#spoken.holding(word)));
  readonly #chains = new NameChains(this.#names);
  readonly #keys = new KeyTable();
  readonly #orders = new FindOrders<Query["sort"]>((sort) => orderingBy(sort, this.#columns, this.#names));
  /** Rows of one content, by their size and hash; and by the number of their group. */
  readonly #alike = new Map<string, { group: number; readonly rows: Set<number> }>();
  readonly #groups: ReadonlySet<number>[] = [new Set()];

  get length(): number {
    return this.#keys.length;
  }

  /** Row of a find; undefined where there is none, or none any more. */
  rowOf(key: string): number | undefined {
    const row = this.#keys.rowOf(key);
    return row === undefined || this.#isGone(row) ? undefined : row;
  }

  keyOf(row: number): string {
    return this.#keys.keyOf(row);
  }

  keptAt(row: number): KeptAt {
    return {
      medium: partsOfKey(this.keyOf(row)).medium,
      pack: this.#columns.pack[row],
      position: this.#columns.position[row],
    };
  }

  /** Keys of all finds with the same content, itself among them; empty where none is known. */
  alike(row: number): string[] {
    const group = this.#columns.group[row];
    const keys: string[] = [];
    // One that was told anew with another content has another group now, or none.
    for (const one of this.#groups[group]) if (!this.#isGone(one) && this.#columns.group[one] === group) keys.push(this.#keys.keyOf(one));
    return keys;
  }

  /** Rows of finds that are called so, in any case. */
  named(name: string): readonly number[] {
    const wanted = name.toLowerCase();
    return wanted === NAMELESS ? [] : this.#chains.called(wanted).filter((row) => !this.#isGone(row));
  }

  sizeOf(row: number): number {
    return this.#columns.size[row];
  }

  kindOf(row: number): Find["kind"] {
    return KINDS[this.#placesAt(row).kind];
  }

  conditionOf(row: number): Find["condition"] {
    return CONDITIONS[this.#placesAt(row).condition];
  }

  /** Which rows are of these kinds and days and hold these words: what an answer is narrowed to, without counting anything. */
  holding({ kinds, days, words }: Pick<Query, "kinds" | "days" | "words">): (row: number) => boolean {
    const tests = words
      .toLowerCase()
      .split(/\s+/)
      .filter(Boolean)
      .map((word) => this.#spoken.holding(word));
    const { day } = this.#columns;
    return (row) =>
      (kinds.length === 0 || kinds.includes(this.kindOf(row))) &&
      (days === null || (day[row] >= days.from && day[row] <= days.to)) &&
      tests.every((has) => has(row));
  }

  #isGone(row: number): boolean {
    return this.#columns.combination[row] === GONE;
  }

  #placesAt(row: number): ReturnType<typeof placesOf> {
    return placesOf(this.#combinations.classes[this.#columns.combination[row]]);
  }

  /** Adds a find, or what was learned about it. @returns its row */
  put(find: Find, { medium, pack, position }: KeptAt): number {
    const key = findKey(medium, find.id);
    const known = this.#keys.length;
    const row = this.#keys.put(key);
    if (row < known && this.#isGone(row)) this.#gone--;
    this.#columns.reach(row);
    const time = timeOf(find);
    this.#columns.combination[row] = this.#combinations.numberOf(classOf(this.#placeOfMedium(medium), find), this.#facts.numberOf(find));
    this.#columns.pack[row] = pack;
    this.#columns.position[row] = position;
    this.#columns.time[row] = time ?? Number.NEGATIVE_INFINITY;
    this.#columns.day[row] = time === null ? NO_DAY : Math.floor(time / DAY);
    this.#widenSpan(this.#columns.day[row]);
    // Another content than before: what was known of the old one says nothing of it.
    if (this.#columns.size[row] !== find.size) [this.#columns.group[row], this.#columns.hashed[row]] = [0, 0];
    this.#columns.size[row] = find.size;
    this.#columns.start[row] = onMedium(find.extents)[0]?.offset ?? -1;
    this.#columns.seconds[row] = find.seconds ?? -1;
    this.#columns.camera[row] = this.#cameras.numberOf(find.camera);
    this.#columns.folder[row] = this.#folders.numberOf(folderKey(medium, find));
    this.#names[row] = find.name?.toLowerCase() ?? NAMELESS;
    this.#spoken.put(row, find);
    this.#orders.touch(row);
    this.#matches.touch(row);

    if (find.sha256 !== null) this.sameAs(row, find.sha256);
    return row;
  }

  #placeOfMedium(medium: number): number {
    const known = this.#mediaIds.indexOf(medium);
    return known >= 0 ? known : this.#mediaIds.push(medium) - 1;
  }

  /** The SHA-256 of a find became known: those of one size and hash are one thing in several places. */
  sameAs(row: number, sha256: string): void {
    this.#columns.hashed[row] = 1;
    const content = `${this.#columns.size[row]} ${sha256}`;
    const alike = this.#alike.get(content) ?? { group: 0, rows: new Set<number>() };
    this.#alike.set(content, alike);
    alike.rows.add(row);
    if (alike.group === 0 && alike.rows.size > 1) {
      alike.group = this.#groups.push(alike.rows) - 1;
      for (const one of alike.rows) this.#columns.group[one] = alike.group;
    }
    this.#columns.group[row] = alike.group;
  }

  /** Keys of finds that have the size of one on another medium while the hash of either is not known: what may be one thing in two places. */
  twins(): string[] {
    const mediumOf = (row: number) => this.#placesAt(row).medium;
    const bySize = new Map<number, number[]>();
    for (let row = 0; row < this.#keys.length; row++) {
      if (this.#isGone(row) || this.#columns.start[row] < 0) continue;
      const same = bySize.get(this.#columns.size[row]);
      if (same) same.push(row);
      else bySize.set(this.#columns.size[row], [row]);
    }
    return [...bySize.values()]
      .filter((rows) => rows.some((row) => mediumOf(row) !== mediumOf(rows[0])))
      .flatMap((rows) => rows.filter((row) => this.#columns.hashed[row] === 0).map((row) => this.#keys.keyOf(row)));
  }

  /** It is no find any more: another scan did not tell it again, or its medium was taken out of the ticket. */
  forget(key: string): void {
    const row = this.#keys.rowOf(key);
    if (row === undefined || this.#isGone(row)) return;
    this.#columns.combination[row] = GONE;
    this.#gone++;
    this.#isSpanOld = true;
  }

  /** First and last day of all finds that are there, those of clocks that were never set left out. */
  #span(): Answer["span"] {
    if (this.#isSpanOld) {
      [this.#firstDay, this.#lastDay, this.#isSpanOld] = [LAST_SANE + 1, FIRST_SANE - 1, false];
      for (let row = 0; row < this.#keys.length; row++) if (!this.#isGone(row)) this.#widenSpan(this.#columns.day[row]);
    }
    return this.#firstDay <= this.#lastDay ? { first: this.#firstDay, last: this.#lastDay } : null;
  }

  #widenSpan(day: number): void {
    if (day < FIRST_SANE || day > LAST_SANE) return;
    if (day < this.#firstDay) this.#firstDay = day;
    if (day > this.#lastDay) this.#lastDay = day;
  }

  /**
   * Filters, counts and sorts. Rows are looked at in the order they lie in, which is many times faster than in that of the answer. What is in several
   * places counts, and is shown, once.
   */
  ask(query: Query): Answer {
    const { counts, facts, span, passing, bytes: bytesOfSingles } = this.#filter(query);
    const all = this.#orders.passing(query.sort, this.#keys.length, this.#room.passed, passing);
    const { rows, bytes } = this.#groups.length > 1 ? this.#shownOnce(all, counts) : { rows: all, bytes: 0 };
    return { ...this.#fittingFirst(rows, query), ...counts.told(this.#mediaIds), ...facts.told(), span, bytes: bytesOfSingles + bytes };
  }

  /** How many finds pass: what is in several places counts once. */
  count(query: Query): number {
    const { counts, passing } = this.#filter(query);
    if (this.#groups.length === 1) return passing;
    const { group } = this.#columns;
    const { passed } = this.#room;
    let count = 0;
    for (let row = 0; row < this.#keys.length; row++) if (passed[row] === 1 && counts.isShown(group[row])) count++;
    return count;
  }

  /** Of what is in several places the first stays, and its bytes. */
  #shownOnce(all: Uint32Array, counts: FacetCounts): { rows: Uint32Array; bytes: number } {
    const { group, size } = this.#columns;
    let bytes = 0;
    const rows = all.filter((row) => {
      if (group[row] === 0) return true;
      if (!counts.isShown(group[row])) return false;
      bytes += size[row];
      return true;
    });
    return { rows, bytes };
  }

  /** Which rows pass all filters: they are 1 in the room's `passed` until the next question. */
  #filter(query: Query) {
    const { days, place, folder } = query;
    const span = this.#span();
    const counts = new FacetCounts(this.#groups.length, this.#mediaIds.length, span);
    const facts = this.#facts.tally(this.#groups.length);
    const length = this.#keys.length;
    const own: OwnFilters = {
      days,
      place: place && { ...place, medium: this.#mediaIds.indexOf(place.medium) },
      folders: folder === null ? null : this.#folders.within(folder),
      words: wordsOf(query.words),
    };
    const failing = this.#combinations.failing(failsOfClasses(query, this.#mediaIds), this.#facts.failing(query));
    const asked = { combinations: this.#combinations, failing, own, matches: this.#matches, gone: this.#gone };
    const told = filterRows(this.#columns, length, asked, this.#room, { counts, facts, isGrouped: this.#groups.length > 1 });
    return { ...told, counts, facts, span };
  }

  /** The folders right under one: volumes under "", else what lies a step deeper. Counts are of what passes all other filters. */
  foldersUnder(query: Query, under: string): FolderCount[] {
    const passed = new Uint32Array(this.#folders.length);
    for (const row of this.ask({ ...query, folder: null }).rows) passed[this.#columns.folder[row]]++;
    const held = new Uint8Array(this.#folders.length);
    for (let row = 0; row < this.#keys.length; row++)
      if (!this.#isGone(row))
        held[this.#columns.folder[row]] = Math.max(held[this.#columns.folder[row]], this.#placesAt(row).state === ERASED ? 1 : 2);
    return this.#folders.under(under, passed, held);
  }

  /** What holds any of the words that are to come first stands under its own headings, before the rest. */
  #fittingFirst(rows: Uint32Array, query: Query): Pick<Answer, "rows" | "groups"> {
    const words = wordsOf(query.first);
    if (words.length === 0) return this.#inGroups(rows, query);
    const holding = words.map((word) => this.#matches.holding([word], this.#keys.length));
    const fits = (row: number) => holding.some((holds) => holds(row));
    const [first, rest] = [rows.filter(fits), rows.filter((row) => !fits(row))].map((some) => this.#inGroups(some, query));
    const both = new Uint32Array(rows.length);
    both.set(first.rows);
    both.set(rest.rows, first.rows.length);
    return { rows: both, groups: first.groups && rest.groups && [...first.groups, ...rest.groups] };
  }

  /** Rows as they stand under their headings, and the headings. */
  #inGroups(rows: Uint32Array, { group, sort }: Query): Pick<Answer, "rows" | "groups"> {
    if (group === "nothing" || (group === "day" && sort !== "newest" && sort !== "oldest")) return { rows, groups: null };
    const { of, compare, name } = groupingBy(group, this.#columns, this.#folders, this.#cameras, this.#combinations.classes);
    const sorted = compare ? gathered(rows, of, compare) : rows;
    return { rows: sorted, groups: groupsOf(sorted, of, name) };
  }
}

const wordsOf = (text: string): string[] => text.toLowerCase().split(/\s+/).filter(Boolean);
