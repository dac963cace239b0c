import { z } from "zod";
import { calledBy, meantBy } from "../../../core/finds/attached.ts";
import { Find } from "../../../core/finds/find.ts";
import { FindIndex } from "../../../core/finds/find-index.ts";
import { findKey, partsOfKey } from "../../../core/finds/find-key.ts";
import type { Answer, Query } from "../../../core/finds/find-query.ts";
import type { FolderCount } from "../../../core/finds/folder-table.ts";
import { DatabaseFinds } from "../../../core/scan/database-finds.ts";
import type { PersonQuery } from "../../../core/stores/people/questions.ts";
import type { Want } from "../../../core/triage/intake.ts";
import { findsWanted, loosened, peopleWanted } from "../../../core/wants/questions.ts";
import { Turns } from "../../../core/work/turns.ts";
import { database, loadJob, loadMedia } from "../../kept/database.ts";
import { Line, type Notice } from "../../kept/news.ts";
import { type ChosenPeople, PeopleDesk } from "./people-desk.ts";
import type { AnswerView, Found, TraySum, WantCount } from "./protocol.ts";

/** Packs kept in memory. */
const IN_MEMORY = 60;
/** Finds that are taken in at a time while a scan goes on: nobody who asks waits for more. */
const AT_A_TIME = 100;
/** Of finds of one name so many are looked at for the one that is meant. */
const MOST_OF_ONE_NAME = 50;
/** Milliseconds between two changes that are told: a scan keeps every second, several scans more often. */
const TELL_EVERY = 120;

const Finds = z.array(Find);

/** Lets everything else that waits have its turn: at once, and not after the four milliseconds of a nested timer (HTML, timers, step 11). */
const nextTurn = (): Promise<void> =>
  new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      resolve();
    };
    port2.postMessage(null);
  });

const pageName = (medium: number, number: number): string => `${medium} ${number}`;

/** Keys of the finds in a pack, by its number; null where one is not shown. */
type Packs = Map<number, (string | null)[]>;

/**
 * The finds of all media of a ticket, as they are kept: filtered, counted and handed out by window. It never scans and never reads a medium; what a
 * scan, in whatever tab, has kept it hears, reads and merges.
 */
export class IndexDesk {
  #job = 0;
  readonly #index = new FindIndex();
  readonly #media = new Map<number, Packs>();
  readonly #pages = new Map<string, readonly Find[]>();
  #answer: Answer | null = null;
  #generation = 0;
  #saidOfPeople = "";
  #notify: (generation: number) => void = () => {};
  /** What people mean by rows: conversations, contacts, calls, dates. */
  readonly people = new PeopleDesk();
  readonly #turns = new Turns();
  #telling: ReturnType<typeof setTimeout> | null = null;
  readonly #line = new Line((notice) => this.#hear(notice));

  /** Reads all that is kept of a ticket. `notify` is told each time that finds came or changed. @returns how many finds there are */
  async open(job: number, notify: (generation: number) => void): Promise<number> {
    this.#job = job;
    this.#notify = notify;
    await this.#readTicket();
    await this.reread();
    return this.#index.length;
  }

  #hear(notice: Notice): void {
    if (!("job" in notice) || notice.job !== this.#job) return;
    if (notice.type === "kept") {
      void this.#turns.take(() => this.#take(notice.medium, notice.packs, notice.firstPack));
      void this.#turns.take(() => this.#takePeople(notice.medium, notice.people));
    } else if (notice.type === "media") void this.reread();
    else if (notice.type === "ticket") void this.#turns.take(() => this.#readTicket());
    else if (notice.type === "hashes") void this.learned(notice.medium, notice.found);
  }

  /** What the ticket says of people. */
  async #readTicket(): Promise<void> {
    const job = await loadJob(this.#job);
    const said = JSON.stringify([job?.joins, job?.intake.country]);
    if (!job || said === this.#saidOfPeople) return;
    this.#saidOfPeople = said;
    this.people.say(job.joins, job.intake.country);
    this.#changed();
  }

  async #takePeople(medium: number, finds: readonly string[] | null): Promise<void> {
    if (!this.#media.has(medium) || finds?.length === 0) return;
    if (finds) await this.people.take(medium, finds);
    else await this.people.reread([...this.#media.keys()]);
    this.#changed();
  }

  /** Media came, went, or were set aside. */
  reread(): Promise<void> {
    return this.#turns.take(() => this.#readMedia());
  }

  /** SHA-256 of finds became known: those of one size and hash are one thing in several places. */
  learned(medium: number, found: readonly (readonly [string, string])[]): Promise<void> {
    return this.#turns.take(async () => {
      for (const [find, sha256] of found) this.#same(medium, find, sha256);
      this.#changed();
    });
  }

  #changed(): void {
    this.#generation++;
    this.#telling ??= setTimeout(() => {
      this.#telling = null;
      this.#notify(this.#generation);
    }, TELL_EVERY);
  }

  /** Media that came are read whole, those that went or were set aside are forgotten. */
  async #readMedia(): Promise<void> {
    const media = (await loadMedia(this.#job)).filter(({ aside }) => !aside);
    for (const id of [...this.#media.keys()])
      if (!media.some((medium) => medium.id === id)) {
        await this.#take(id, [], Number.POSITIVE_INFINITY);
        this.#media.delete(id);
      }
    for (const { id } of media.filter((one) => !this.#media.has(one.id))) {
      this.#media.set(id, new Map());
      const numbers = (await database.packs.where("medium").equals(id).primaryKeys()).map(([, number]) => number);
      await this.#take(id, numbers, 0);
      for (const { find, sha256 } of await database.hashes.where("medium").equals(id).toArray()) this.#same(id, find, sha256);
    }
    await this.people.reread(media.map(({ id }) => id));
    this.#changed();
  }

  #same(medium: number, find: string, sha256: string): void {
    const row = this.#index.rowOf(findKey(medium, find));
    if (row !== undefined) this.#index.sameAs(row, sha256);
  }

  /** Packs were kept, and those before `firstPack` are gone. */
  async #take(medium: number, numbers: readonly number[], firstPack: number): Promise<void> {
    const packs = this.#media.get(medium);
    if (!packs) return;
    for (const number of [...numbers].sort((a, b) => a - b)) {
      this.#pages.delete(pageName(medium, number));
      const kept = await database.packs.get([medium, number]);
      if (!kept) continue;
      const hidden = new Set(kept.hidden);
      const keys: (string | null)[] = [];
      for (let from = 0; from < kept.finds.length; from += AT_A_TIME) {
        for (const find of Finds.parse(kept.finds.slice(from, from + AT_A_TIME))) {
          const position = keys.length;
          if (!hidden.has(position)) this.#index.put(find, { medium, pack: number, position });
          keys.push(hidden.has(position) ? null : findKey(medium, find.id));
        }
        // A question that came meanwhile is answered first.
        if (this.#answer) await nextTurn();
      }
      packs.set(number, keys);
    }
    for (const [number, keys] of [...packs].filter(([one]) => one < firstPack)) {
      packs.delete(number);
      for (const key of keys) {
        const row = key === null ? undefined : this.#index.rowOf(key);
        // Told again by the scan that stands: then it lies in a later pack now.
        if (key !== null && row !== undefined && this.#index.keptAt(row).pack === number) this.#index.forget(key);
      }
    }
    this.#changed();
  }

  ask(query: Query): AnswerView {
    this.#answer = this.#index.ask(query);
    const { rows, ...view } = this.#answer;
    return { ...view, total: rows.length, generation: this.#generation };
  }

  /** The folders right under one, as `Query.folder` names them; "": the volumes. Counts are those of this question. */
  folders(query: Query, under: string): FolderCount[] {
    return this.#index.foldersUnder(query, under);
  }

  async #page(medium: number, number: number): Promise<readonly Find[]> {
    const name = pageName(medium, number);
    const known = this.#pages.get(name);
    this.#pages.delete(name);
    const finds = known ?? Finds.parse((await database.packs.get([medium, number]))?.finds ?? []);
    this.#pages.set(name, finds);
    for (const old of this.#pages.keys()) {
      if (this.#pages.size <= IN_MEMORY) break;
      this.#pages.delete(old);
    }
    return finds;
  }

  async #at(row: number): Promise<Found | null> {
    const { medium, pack, position } = this.#index.keptAt(row);
    const find = (await this.#page(medium, pack)).at(position);
    const key = this.#index.keyOf(row);
    // It was written anew between the question and now: the next answer has it.
    if (!find || findKey(medium, find.id) !== key) return null;
    return { ...find, key, medium, places: this.#index.alike(row).filter((one) => one !== key) };
  }

  /** Finds `from` (inclusive) to `to` (exclusive) of the last answer. */
  async window(from: number, to: number): Promise<Found[]> {
    return this.#all(Array.from(this.#answer?.rows.slice(from, to) ?? []));
  }

  async #all(rows: readonly number[]): Promise<Found[]> {
    const found: Found[] = [];
    for (const row of rows) {
      const one = await this.#at(row);
      if (one) found.push(one);
    }
    return found;
  }

  async find(key: string): Promise<Found | null> {
    const row = this.#index.rowOf(key);
    return row === undefined ? null : this.#at(row);
  }

  findsOf(keys: readonly string[]): Promise<Found[]> {
    return this.#all(keys.flatMap((key) => this.#index.rowOf(key) ?? []));
  }

  /** What of people's data is among keys. */
  peopleOf(keys: readonly string[]): Promise<ChosenPeople> {
    return this.people.chosen(keys);
  }

  /** The files that messages of a medium name by these paths; null: none of the storage is it. */
  async attached(medium: number, paths: readonly string[]): Promise<(Found | null)[]> {
    const found: (Found | null)[] = [];
    for (const path of paths) {
      const alike = await this.#all(this.#index.named(calledBy(path)).slice(0, MOST_OF_ONE_NAME));
      found.push(meantBy(path, medium, alike));
    }
    return found;
  }

  /** How many files the latest messages of a person name that are called as nothing is that was found. */
  async missingFiles(query: PersonQuery): Promise<number> {
    const named = await this.people.filesOfPerson(query);
    return new Set(named.filter((path) => this.#index.named(calledBy(path)).length === 0)).size;
  }

  /** A database's own log and journal, among the finds of its medium. */
  async beside(key: string): Promise<Find[]> {
    const { medium, id } = partsOfKey(key);
    const all = new DatabaseFinds();
    for (const number of this.#media.get(medium)?.keys() ?? []) for (const find of await this.#page(medium, number)) all.note(find);
    const set = all.databases().find(({ find }) => find.id === id);
    return set ? [set.find, set.wal, set.journal].filter((find) => find !== null) : [];
  }

  /** How much answers each want. Between two of them whoever asked meanwhile is answered. */
  async countWants(wants: readonly Want[]): Promise<WantCount[]> {
    const counts: WantCount[] = [];
    for (const want of wants) {
      const [finds, people] = [findsWanted(want), peopleWanted(want)];
      const files = finds ? this.#index.count(finds) : 0;
      const wider = files === 0 ? loosened(want) : null;
      const loose = wider ? this.#index.count(wider) : 0;
      counts.push({ files, loose, people: people ? this.people.count(people) : 0 });
      await nextTurn();
    }
    return counts;
  }

  /** Which wants each of some keys answers, by the wants' numbers. */
  async wantsOf(keys: readonly string[], wants: readonly Want[]): Promise<number[][]> {
    const answered = keys.map((): number[] => []);
    const rows = keys.map((key) => this.#index.rowOf(key));
    // Who a message is with is looked up in all conversations: not for files.
    const hasEntries = rows.includes(undefined);
    for (const [number, want] of wants.entries()) {
      const [finds, people] = [findsWanted(want), hasEntries ? peopleWanted(want) : null];
      const wider = loosened(want);
      const isFile = finds && this.#index.holding(wider && this.#index.count(finds) === 0 ? wider : finds);
      const isEntry = people && this.people.answering(people);
      for (const [at, row] of rows.entries()) if (row === undefined ? isEntry?.(keys[at]) : isFile?.(row)) answered[at].push(number);
      await nextTurn();
    }
    return answered;
  }

  /** Keys of the whole last answer. */
  answerKeys(): string[] {
    return Array.from(this.#answer?.rows ?? [], (row) => this.#index.keyOf(row));
  }

  /** Where a find stands in the last answer, or -1. */
  placeInAnswer(key: string): number {
    const row = this.#index.rowOf(key);
    return row === undefined || !this.#answer ? -1 : this.#answer.rows.indexOf(row);
  }

  sumOf(keys: readonly string[]): TraySum {
    const kinds: Partial<Record<Find["kind"], number>> = {};
    const sum = { count: 0, bytes: 0, damaged: 0 };
    for (const key of keys) {
      const row = this.#index.rowOf(key);
      if (row === undefined) continue;
      const kind = this.#index.kindOf(row);
      kinds[kind] = (kinds[kind] ?? 0) + 1;
      sum.bytes += this.#index.sizeOf(row);
      sum.count++;
      const condition = this.#index.conditionOf(row);
      if (condition === "damaged" || condition === "remnant") sum.damaged++;
    }
    const people = this.people.kindsOf(keys);
    for (const count of Object.values(people)) sum.count += count;
    return { ...sum, kinds, people };
  }

  /** Finds of each medium that have the size of one on another medium, and whose hash is not known: what may be one thing in two places. */
  twins(): string[] {
    return this.#index.twins();
  }

  close(): void {
    this.#line.close();
  }
}
