import type { Adb } from "@yume-chan/adb";
import { BLOCK, padded } from "../../../core/filesystems/tar/layout.ts";
import { headerBlocks } from "../../../core/filesystems/tar/write.ts";
import { ASKED_FOLDER } from "../../../core/medium/own-files.ts";
import type { ProviderRow } from "../../../core/phones/adb/printed-rows.ts";
import {
  addressesOf,
  type PeopleKind,
  PROVIDER_QUERIES,
  type ProviderQuery,
  partUri,
  photoUri,
} from "../../../core/phones/adb/provider-queries.ts";
import { ProviderRefused, readOfProvider, rowsOfProvider } from "../../../core/phones/adb/providers.ts";
import { ANSWER_END, type AnswerValue, answerBegin, answerRow, NOT_TOLD } from "../../../core/stores/asked/answer-file.ts";

/** What the system's own providers told, written as an archive. */
export interface TakenPeople {
  /** Bytes of the archive. */
  readonly size: number;
  /** Rows by what was asked. */
  readonly told: Readonly<Partial<Record<PeopleKind, number>>>;
  /** What the phone did not tell, in plain words. */
  readonly troubles: readonly string[];
}

type Write = (at: number, bytes: Uint8Array) => Promise<void>;

/** Where parts of multimedia messages lie in the archive: they are finds like any other file. */
const PARTS_FOLDER = "message parts";
/** Asked for one by one, a second each on a slow phone: pictures of contacts, multimedia messages, their parts. */
const MOST_ONE_BY_ONE = 2000;
/** Bytes of one of them. */
const MOST_PHOTO = 4 * 1024 * 1024;
const MOST_PART = 64 * 1024 * 1024;
/** Letters that are written at once. */
const PIECE = 256 * 1024;

/**
 * Asks the system's own providers for people's data, and writes their answers as they come as an archive of one file for each question. A provider that
 * refuses or is missing is said; the rest comes. `progress` hears how many rows came so far.
 * @throws UnusableError when `signal` aborts; Error when the connection ends
 */
export async function takePeople(adb: Adb, write: Write, progress: (rows: number) => void, signal: AbortSignal): Promise<TakenPeople> {
  const taking = new Taking(adb, write, progress, signal);
  for (const query of PROVIDER_QUERIES) await taking.answer(query);
  await taking.addresses();
  await taking.parts();
  await taking.notTold();
  return taking.close();
}

class Taking {
  readonly #adb: Adb;
  readonly #write: Write;
  readonly #progress: (rows: number) => void;
  readonly #signal: AbortSignal;
  readonly #now = Date.now();
  readonly #told: Partial<Record<PeopleKind, number>> = {};
  readonly #troubles: string[] = [];
  /** Multimedia messages, and parts that are files. */
  readonly #messages: string[] = [];
  readonly #parts: { readonly id: string; readonly name: string }[] = [];
  #photos = 0;
  #rows = 0;
  #at = 0;

  constructor(adb: Adb, write: Write, progress: (rows: number) => void, signal: AbortSignal) {
    this.#adb = adb;
    this.#write = write;
    this.#progress = progress;
    this.#signal = signal;
  }

  /** One question, and its answer as a file. */
  async answer(query: ProviderQuery): Promise<void> {
    const lines = this.#lines(query, rowsOfProvider(this.#adb, query, this.#signal));
    const count = await this.#answerFile(query.name, query.uri, query.columns, lines);
    if (count === null) return;
    this.#told[query.kind] = (this.#told[query.kind] ?? 0) + (query.beside ? 0 : count);
  }

  /** @returns how many rows it has; null where there is no file of it */
  async #answerFile(
    name: string,
    uri: string,
    columns: readonly string[],
    rows: AsyncIterable<readonly AnswerValue[]>,
  ): Promise<number | null> {
    const row = rows[Symbol.asyncIterator]();
    let next = await row.next();
    if (next.done) return null;
    let count = 0;
    const pieces = async function* () {
      let text = answerBegin({ uri, columns });
      for (; !next.done; next = await row.next()) {
        text += answerRow(next.value, count++ === 0);
        if (text.length < PIECE) continue;
        yield text;
        text = "";
      }
      yield text + ANSWER_END;
    };
    await this.#file(`${ASKED_FOLDER}/${name}.json`, pieces());
    return count;
  }

  /** Rows of a provider as they are kept; where it refuses, those that came before. */
  async *#lines(query: ProviderQuery, rows: AsyncIterable<ProviderRow[]>): AsyncGenerator<readonly AnswerValue[]> {
    try {
      for await (const some of rows) {
        for (const row of some) {
          this.#note(query, row);
          yield await this.#valuesOf(query, row);
        }
        this.#rows += some.length;
        this.#progress(this.#rows);
      }
    } catch (cause) {
      if (!(cause instanceof ProviderRefused)) throw cause;
      if (!query.beside) this.#troubles.push(`${query.name}: ${cause.because}`);
    }
  }

  #note({ uri }: ProviderQuery, row: ProviderRow): void {
    if (uri === "content://mms" && row._id) this.#messages.push(row._id);
    if (uri !== "content://mms/part" || !row._id || !row.ct || row.ct === "text/plain" || row.ct === "application/smil") return;
    const name = row._data?.replace(/^.*\//, "") || `${row._id} ${row.name ?? row.fn ?? row.cl ?? "part"}`.replace(/[/\\]/g, "_");
    this.#parts.push({ id: row._id, name });
  }

  /** Pictures of contacts are printed as a word: their bytes are asked for by themselves. */
  async #valuesOf({ columns }: ProviderQuery, row: ProviderRow): Promise<readonly AnswerValue[]> {
    const values: AnswerValue[] = columns.map((column) => row[column] ?? null);
    const at = columns.indexOf("data15");
    if (at < 0) return values;
    const isPhoto = row.data15 === "BLOB" && row.mimetype?.endsWith("/photo") === true && /^\d+$/.test(row.contact_id ?? "");
    values[at] =
      isPhoto && this.#photos++ < MOST_ONE_BY_ONE
        ? await readOfProvider(this.#adb, photoUri(row.contact_id ?? ""), MOST_PHOTO, this.#signal)
        : null;
    return values;
  }

  /** Who each multimedia message is from and to. */
  async addresses(): Promise<void> {
    const [first] = this.#messages;
    if (first === undefined) return;
    const asked = this.#messages.slice(0, MOST_ONE_BY_ONE);
    const { name, columns } = addressesOf(first);
    const rows = async function* (this: Taking) {
      for (const message of asked) {
        const query = addressesOf(message);
        yield* this.#lines(query, rowsOfProvider(this.#adb, query, this.#signal));
      }
    };
    await this.#answerFile(name, "content://mms/addr", columns, rows.call(this));
    this.#sayCut(this.#messages.length, "multimedia messages: who they are from and to was asked for");
  }

  /** Pictures and sounds of multimedia messages, each a file. */
  async parts(): Promise<void> {
    let lost = 0;
    for (const { id, name } of this.#parts.slice(0, MOST_ONE_BY_ONE)) {
      const bytes = await readOfProvider(this.#adb, partUri(id), MOST_PART, this.#signal);
      if (bytes) await this.#file(`${PARTS_FOLDER}/${name}`, [bytes]);
      else lost++;
    }
    if (lost > 0) this.#troubles.push(`${lost} ${lost === 1 ? "file" : "files"} of multimedia messages did not come`);
    this.#sayCut(this.#parts.length, "files of multimedia messages were asked for");
    this.#sayCut(this.#photos, "pictures of contacts were asked for");
  }

  #sayCut(all: number, what: string): void {
    if (all > MOST_ONE_BY_ONE) this.#troubles.push(`of ${all} ${what} only the first ${MOST_ONE_BY_ONE}`);
  }

  /** A file of the archive: its content as it comes, then its header, which says how long it is, in front of it. */
  async #file(path: string, pieces: AsyncIterable<string> | Iterable<Uint8Array>): Promise<void> {
    const from = this.#at;
    const head = headerBlocks({ path, size: 0, modified: this.#now }).length;
    const encoder = new TextEncoder();
    let size = 0;
    for await (const piece of pieces) {
      const bytes = typeof piece === "string" ? encoder.encode(piece) : piece;
      await this.#write(from + head + size, bytes);
      size += bytes.length;
    }
    const header = headerBlocks({ path, size, modified: this.#now });
    if (header.length !== head) throw new RangeError(`${path} is too long for this archive`);
    await this.#write(from, header);
    await this.#write(from + head + size, new Uint8Array(padded(size) - size));
    this.#at = from + head + padded(size);
  }

  /** What did not come lies beside what did: it is said whenever this is read. */
  async notTold(): Promise<void> {
    const rows = async function* (sentences: readonly string[]) {
      for (const sentence of sentences) yield [sentence];
    };
    await this.#answerFile("not told", NOT_TOLD, ["what"], rows(this.#troubles));
  }

  /** Two blocks of zeros close an archive (POSIX.1-2017, pax, ustar Interchange Format). */
  async close(): Promise<TakenPeople> {
    await this.#write(this.#at, new Uint8Array(2 * BLOCK));
    return { size: this.#at + 2 * BLOCK, told: this.#told, troubles: this.#troubles };
  }
}
