import type { WorkState } from "../../core/work/work-state.ts";
import type { KeptScan } from "./kept-scan.ts";

/** What all pages and workers of this application tell each other, in every tab: what was kept, what goes on, what was taken away. */
export type Notice =
  /** Packs of a medium were kept; those before `firstPack` are gone. */
  | {
      readonly type: "kept";
      readonly job: number;
      readonly medium: number;
      readonly packs: readonly number[];
      readonly firstPack: number;
      /** Databases of which people's data were kept; null: some that was kept before went or is another now. */
      readonly people: readonly string[] | null;
    }
  | { readonly type: "news"; readonly job: number; readonly medium: number; readonly news: News }
  /** A working copy goes on, or its state changed. */
  | { readonly type: "copy"; readonly job: number; readonly medium: number; readonly copy: CopyNews }
  /** Media were added, set aside, removed or given another storage. */
  | { readonly type: "media"; readonly job: number }
  /** Something of the ticket itself was changed by another page. */
  | { readonly type: "ticket"; readonly job: number; readonly by: string }
  /** The ticket was removed. */
  | { readonly type: "gone"; readonly job: number }
  /** SHA-256 of finds became known. */
  | { readonly type: "hashes"; readonly job: number; readonly medium: number; readonly found: readonly (readonly [string, string])[] }
  /** Whoever works on these media ends that now: they are taken away. */
  | { readonly type: "end"; readonly media: readonly number[] };

/** Where a working copy stands: bytes that are copied, and why it is held or failed. */
export interface CopyNews {
  readonly status: WorkState;
  readonly because: string | null;
  readonly done: number;
}

/** The state of a scan, a few times a second. */
export interface News {
  /** The number that the medium's row had when this was told: what an earlier owner still says is old. */
  readonly owner: number;
  /** The record without its checkpoint: that is nobody's but the scan's. */
  readonly scan: Omit<KeptScan, "checkpoint">;
  /** Bytes a second, and seconds left of this pass: null while unknown. */
  readonly pace: number | null;
  readonly secondsLeft: number | null;
  /** Byte where reading is now, or null. */
  readonly lamp: number | null;
}

const NAME = "jubar";

/** A line to all other pages and workers. What one says oneself one does not hear. */
export class Line {
  readonly #channel = new BroadcastChannel(NAME);

  constructor(hear: (notice: Notice) => void = () => {}) {
    this.#channel.onmessage = ({ data }: MessageEvent<Notice>) => hear(data);
    // In Node an open channel would keep a test's process alive.
    (this.#channel as { unref?(): void }).unref?.();
  }

  say(notice: Notice): void {
    this.#channel.postMessage(notice);
  }

  close(): void {
    this.#channel.close();
  }
}

/** One word to all, from where nobody listens. */
export function tellAll(notice: Notice): void {
  const line = new Line();
  line.say(notice);
  line.close();
}
