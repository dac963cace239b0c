import { type ProxyMarked, proxyMarker } from "comlink";
import { Contents } from "../../../core/archives/stream.ts";
import { blobSource } from "../../../core/bytes/blob-source.ts";
import { patientSource } from "../../../core/bytes/patient-source.ts";
import { FindIndex } from "../../../core/finds/find-index.ts";
import { findKey } from "../../../core/finds/find-key.ts";
import type { Answer, Query } from "../../../core/finds/find-query.ts";
import type { FolderCount } from "../../../core/finds/folder-table.ts";
import type { OpenMedium } from "../../../core/handover/item.ts";
import { type AnswerView, type Found, WRITTEN } from "../finds/protocol.ts";

/** A file that was given back: which find it is of, where it stands, and what stands there. */
export interface ArrivedFile {
  readonly find: Found;
  /** Under the hand-over's folder. */
  readonly path: string;
  readonly file: Blob;
}

/** What was written, as one medium that is read from where it now is: its files one after the other. */
export interface WrittenMedium extends OpenMedium {
  readonly file: Blob;
}

/**
 * What was handed over last, filtered, counted and handed out as the finds of a ticket are: but as it stands where it was written. A few thousand: they
 * are all at hand.
 */
export class WrittenFinds implements ProxyMarked {
  readonly [proxyMarker] = true as const;
  #index = new FindIndex();
  #finds: Found[] = [];
  #answer: Answer | null = null;

  /** Takes up what was written, in place of what was before. */
  take(files: readonly ArrivedFile[], name: string): WrittenMedium {
    this.#index = new FindIndex();
    this.#finds = [];
    this.#answer = null;
    let at = 0;
    for (const [position, { find, path, file }] of files.entries()) {
      const { packed: _, ...kept } = find;
      const id = `${find.medium}.${find.id}`;
      const written: Found = {
        ...kept,
        id,
        key: findKey(WRITTEN, id),
        medium: WRITTEN,
        places: [],
        name: path.slice(path.lastIndexOf("/") + 1),
        path: `/${path}`,
        volume: null,
        inside: null,
        size: file.size,
        extents: [{ offset: at, length: file.size }],
        evidence: [],
      };
      this.#finds.push(written);
      // The same bytes twice are two files there: none stands for the other.
      this.#index.put({ ...written, sha256: null }, { medium: WRITTEN, pack: 0, position });
      at += file.size;
    }
    const file = new Blob(files.map((one) => one.file));
    const source = patientSource(blobSource(file, name), {});
    return { file, source, contents: new Contents(source) };
  }

  ask(query: Query): AnswerView {
    this.#answer = this.#index.ask(query);
    const { rows, ...view } = this.#answer;
    return { ...view, total: rows.length, generation: 0 };
  }

  window(from: number, to: number): Found[] {
    return Array.from(this.#answer?.rows.slice(from, to) ?? [], (row) => this.#finds[row]);
  }

  placeInAnswer(key: string): number {
    const row = this.#index.rowOf(key);
    return row === undefined || !this.#answer ? -1 : this.#answer.rows.indexOf(row);
  }

  folders(query: Query, under: string): FolderCount[] {
    return this.#index.foldersUnder(query, under);
  }
}
