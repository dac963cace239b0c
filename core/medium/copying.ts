import type { ResumableSha256 } from "../bytes/hash.ts";
import { type ByteSource, UnusableError } from "../bytes/source.ts";
import type { Work } from "../work/conductor.ts";
import { isOver, type WorkState } from "../work/work-state.ts";
import { type CopyMark, type CopyTarget, copySource } from "./working-copy.ts";

/** A place that a copy is written to, which is open. */
export interface OpenTarget extends CopyTarget {
  /** Makes what was written until now last. `isResting`: nothing is written next. @returns whether it does: some places take it only at the end */
  settle(isResting: boolean): Promise<boolean>;
  close(): Promise<void>;
}

/** What is kept of a copy: a mark never promises what is not there. */
export interface CopyKept {
  readonly status: WorkState;
  readonly because: string | null;
  readonly mark: CopyMark;
  /** Of the whole copy, when it is done. */
  readonly sha256: string | null;
}

export interface CopyTools {
  readonly source: ByteSource;
  /** How far it got before. */
  readonly mark: CopyMark;
  readonly sha256: ResumableSha256;
  openTarget(mark: CopyMark): Promise<OpenTarget>;
  keep(kept: CopyKept): Promise<void>;
  /** Told of each mark as it comes. */
  copied?(mark: CopyMark): void;
  /** Another one copies now: in plain words, or null for any other error. */
  takenOver(cause: unknown): string | null;
  /** Why something could not be written or kept, in plain words. */
  whyNot(cause: unknown): string;
}

/** A working copy as work that a conductor leads. */
export class CopyWork implements Work<CopyMark> {
  readonly #tools: CopyTools;
  #target: OpenTarget | null = null;
  /** Copied, and kept so that it lasts. */
  #mark: CopyMark;
  #lasting: CopyMark;

  constructor(tools: CopyTools) {
    this.#tools = tools;
    this.#mark = tools.mark;
    this.#lasting = tools.mark;
  }

  async *begin(signal: AbortSignal): AsyncGenerator<CopyMark, void> {
    const { source, sha256 } = this.#tools;
    this.#target ??= await this.#tools.openTarget(this.#mark);
    yield* copySource(source, this.#target, sha256, this.#mark, signal);
  }

  take(mark: CopyMark): void {
    this.#mark = mark;
    this.#tools.copied?.(mark);
  }

  /** First the bytes, then the mark. */
  async keep(status: WorkState, because: string | null): Promise<void> {
    const isResting = status !== "running";
    const target = this.#target;
    if (!target || (await target.settle(isResting))) this.#lasting = this.#mark;
    if (isOver(status)) {
      this.#target = null;
      await target?.close();
    }
    await this.#tools.keep({ status, because, mark: this.#lasting, sha256: status === "done" ? this.#digest() : null });
  }

  #digest(): string {
    const { sha256 } = this.#tools;
    if (this.#mark.hash) sha256.load(this.#mark.hash);
    else sha256.start();
    return sha256.digest();
  }

  reason(cause: unknown): string | { readonly takenOver: string } {
    const takenOver = this.#tools.takenOver(cause);
    if (takenOver !== null) return { takenOver };
    return cause instanceof UnusableError ? cause.message : this.#tools.whyNot(cause);
  }
}
