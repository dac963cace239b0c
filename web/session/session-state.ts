import type { Query } from "../../core/finds/find-query.ts";
import type { PeopleCounts } from "../../core/stores/people/questions.ts";
import { isOver, isUnderWay } from "../../core/work/work-state.ts";
import type { Job } from "../kept/job.ts";
import type { KeptScan } from "../kept/kept-scan.ts";
import type { Medium } from "../kept/medium.ts";
import type { CopyNews, News } from "../kept/news.ts";
import type { KeptPart } from "../kept/part.ts";
import type { AnswerView, Found, TraySum } from "../worker/finds/protocol.ts";
import type { HandOverNews, HandOverResult } from "../worker/reading/protocol.ts";
import type { Access } from "./storage-access.ts";

/** A scan as it is shown: its checkpoint is nobody's but the scan's. */
export type ShownScan = Omit<KeptScan, "checkpoint">;

/** One medium of the ticket as the screens have it. */
export interface MediumState {
  readonly medium: Medium;
  /** What was heard last of its scan, in whatever tab it runs. */
  readonly news: News | null;
  readonly storage: "opening" | "open" | "none" | Exclude<Access, { kind: "granted" }>;
  /** What went wrong when storage was opened or a scan was started. */
  readonly problem: string | null;
  /** What was heard last of its working copy, in whatever tab that is made. */
  readonly copy: CopyNews | null;
  /** here: this page scans or copies it. elsewhere: another tab does. */
  readonly worked: "nowhere" | "here" | "elsewhere";
}

export interface SessionState {
  /** loading, then the job, or null where there is none. */
  readonly job: Job | null | "loading";
  readonly media: readonly MediumState[];
  /** The medium in hand, by its number; null where there is none. */
  readonly inHand: number | null;
  /** Why this ticket cannot be opened. */
  readonly problem: string | null;
  /** Why the last change is shown but not kept, or null. */
  readonly unkept: string | null;
  readonly query: Query;
  readonly answer: AnswerView | null;
  /** The find that is looked at. */
  readonly selected: Found | null;
  /** What was looked at of the ticket, while what was written is looked at in its place; null: the ticket's finds are. */
  readonly behind: Pick<SessionState, "query" | "answer" | "selected"> | null;
  /** Conversations, contacts, calls and dates of the ticket, and how often they changed. */
  readonly people: { readonly counts: PeopleCounts; readonly generation: number };
  readonly tray: ReadonlySet<string>;
  readonly traySum: TraySum;
  readonly handOver: {
    readonly news: HandOverNews | null;
    readonly checked: readonly NonNullable<HandOverNews["checked"]>[];
    readonly result: HandOverResult | null;
    readonly busy: boolean;
  };
}

export const EMPTY_TRAY: TraySum = { count: 0, bytes: 0, kinds: {}, damaged: 0, people: {} };
export const NOTHING_WRITTEN: SessionState["handOver"] = { news: null, checked: [], result: null, busy: false };

/**
 * The scan of a medium as it stands. One that is kept as under way while nobody works on it was broken off with its page: it is stopped, and can be
 * gone on with.
 */
export function scanOf({ medium, news, worked }: Pick<MediumState, "medium" | "news" | "worked">): ShownScan {
  const scan: ShownScan = news?.scan ?? medium.scan;
  return worked === "nowhere" && (isUnderWay(scan.status) || scan.status === "held") ? { ...scan, status: "stopped" } : scan;
}

/** The working copy of a medium as it stands. One that nobody makes any more was broken off with its page, wherever it stood. */
export function copyOf({ copy, worked }: Pick<MediumState, "copy" | "worked">, { status, because, mark }: KeptPart): CopyNews {
  const now = copy ?? { status, because, done: mark.done };
  const isLeft = worked === "nowhere" && (isUnderWay(now.status) || now.status === "held" || now.status === "paused");
  return isLeft ? { ...now, status: "stopped" } : now;
}

/** Is a working copy made of it, in whatever tab, or does one rest that can be woken? Then it is not scanned meanwhile. */
export const isCopied = ({ copy, worked }: Pick<MediumState, "copy" | "worked">): boolean =>
  worked !== "nowhere" && copy !== null && !isOver(copy.status);

/** Media that are worked with: not those that were set aside. */
export const inUse = (media: readonly MediumState[]): readonly MediumState[] => media.filter(({ medium }) => !medium.aside);
