import type { Find } from "../../core/finds/find.ts";
import type { Answer, Query } from "../../core/finds/find-index.ts";
import type { FolderCount } from "../../core/finds/folder-table.ts";
import type { WrittenFile } from "../../core/handover/write.ts";
import type { Depth } from "../../core/scan/events.ts";
import type { Job, Lacks, ScanRecord } from "../kept/job.ts";
import type { TablesWorker } from "./tables-protocol.ts";

/** What screen and worker say to each other. Errors cross as data: a class would not survive the way. */

/** The storage itself, as the screen was allowed to open it. */
export type Grant =
  | { readonly kind: "file"; readonly file: File; readonly passphrase?: string; readonly lacks?: Lacks }
  /** A folder that the browser keeps a handle of. */
  | { readonly kind: "folder"; readonly handle: FileSystemDirectoryHandle }
  /** A folder's files, where the browser gives no handle: their paths are relative to it. */
  | { readonly kind: "files"; readonly name: string; readonly files: readonly File[] }
  | { readonly kind: "url"; readonly url: string; readonly name: string; readonly size: number }
  /** A phone, held by another worker. */
  | { readonly kind: "port"; readonly port: MessagePort; readonly name: string; readonly size: number };

/** `passphrase`: it is an encrypted backup, and its owner's passphrase is what is lacking. */
export type Outcome = { readonly ok: true } | { readonly ok: false; readonly because: string; readonly passphrase?: boolean };

/** The state of a scan, a few times a second. */
export interface News {
  readonly scan: ScanRecord;
  /** Bytes a second, and seconds left of this pass: null while unknown. */
  readonly pace: number | null;
  readonly secondsLeft: number | null;
  /** Grows with every find and every change of one: time to ask again. */
  readonly generation: number;
  /** Ids of the latest erased pictures. */
  readonly newest: readonly string[];
  readonly map: MapPicture | null;
}

export interface MapPicture {
  readonly size: number;
  readonly cells: Uint8Array;
  readonly strokes: Uint16Array;
  /** Byte where reading is now, or null. */
  readonly lamp: number | null;
}

/** An answer without its rows: they stay in the worker and are asked for by window. */
export interface AnswerView extends Omit<Answer, "rows"> {
  readonly total: number;
  /** Headings for sorts by time: neighbouring finds of one day. */
  readonly groups: readonly { readonly day: number | null; readonly count: number }[] | null;
  readonly generation: number;
}

export interface TraySum {
  readonly count: number;
  readonly bytes: number;
  readonly kinds: Partial<Record<Find["kind"], number>>;
  readonly damaged: number;
}

/** Where the chosen finds go. */
export type Target =
  | { readonly kind: "folder"; readonly handle: FileSystemDirectoryHandle; readonly folder: string }
  | { readonly kind: "zip"; readonly folder: string };

export interface HandOverNews {
  readonly total: number;
  readonly written: number;
  /** The file that was just read back and compared. */
  readonly checked: Omit<WrittenFile, "find"> | null;
}

export type HandOverResult =
  | {
      readonly ok: true;
      readonly folder: string;
      readonly equal: number;
      readonly files: number;
      /** Files that arrived as they were read, though the medium did not give all of them. */
      readonly holes: number;
      /** What else went wrong, in plain words. */
      readonly notes: readonly string[];
      readonly summary: string;
      readonly archive: File | null;
    }
  | { readonly ok: false; readonly because: string };

/** A drawn picture, or why none is drawn; null where nothing can be said of it. */
export type PreviewAnswer = { readonly picture: Blob } | { readonly word: string } | null;

export interface JobWorker extends TablesWorker {
  /** Loads a kept job: its finds answer at once, without its storage. */
  open(jobId: number, notify: (news: News) => void): Promise<Job | null>;
  /** Opens the storage and makes sure that it is the job's own. */
  attach(grant: Grant): Promise<Outcome>;
  start(depth: Depth): Promise<Outcome>;
  pause(): void;
  stop(): void;
  ask(query: Query): AnswerView;
  /** The folders right under one, as `Query.folder` names them; "": the volumes. Counts are those of this question. */
  folders(query: Query, under: string): FolderCount[];
  /** Finds `from` (inclusive) to `to` (exclusive) of the last answer. */
  window(from: number, to: number): Promise<Find[]>;
  find(id: string): Promise<Find | null>;
  /** Ids of the whole last answer. */
  answerIds(): string[];
  /** Where a find stands in the last answer, or -1. */
  placeInAnswer(id: string): number;
  sumOf(ids: readonly string[]): TraySum;
  findsOf(ids: readonly string[]): Promise<Find[]>;
  /** A preview no larger than `side` pixels. */
  preview(id: string, side: number): Promise<PreviewAnswer>;
  handOver(ids: readonly string[], target: Target, notify: (news: HandOverNews) => void): Promise<HandOverResult>;
}
