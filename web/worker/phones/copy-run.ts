import { portableSha256 } from "../../../core/bytes/hash.ts";
import { type ByteSource, UnusableError } from "../../../core/bytes/source.ts";
import { whyNot } from "../../../core/handover/refusals.ts";
import { type CopyMark, copySource } from "../../../core/medium/working-copy.ts";
import type { CopyRecord } from "../../kept/copy.ts";
import { database } from "../../kept/database.ts";
import { lacksRoom, NO_ROOM } from "../../kept/no-room.ts";
import { openTarget } from "./copy-target.ts";

/** Milliseconds between marks that are kept. */
const KEEP_EVERY = 500;

/** One working copy under way: marks are kept, so that it goes on after a pulled cable or a reload. */
export class CopyRun {
  #record: CopyRecord;
  readonly #stop = new AbortController();
  readonly #tell: (record: CopyRecord) => void;

  constructor(record: CopyRecord, tell: (record: CopyRecord) => void) {
    this.#record = record;
    this.#tell = tell;
  }

  stop(): void {
    this.#stop.abort();
  }

  async #keep(change: Partial<CopyRecord>): Promise<void> {
    this.#record = { ...this.#record, ...change };
    this.#tell(this.#record);
    await database.copies.put(this.#record);
  }

  /** Runs to the end, to a stop, or to where the phone went away; never throws. */
  async run(source: ByteSource): Promise<void> {
    await this.#keep({ status: "running", because: null });
    let mark: CopyMark = this.#record.mark;
    try {
      const target = await openTarget(this.#record);
      const sha256 = await portableSha256();
      let end: Partial<CopyRecord>;
      try {
        let kept = performance.now();
        for await (mark of copySource(source, target, sha256, mark)) {
          if (this.#stop.signal.aborted) break;
          if (performance.now() - kept < KEEP_EVERY) continue;
          kept = performance.now();
          // First the bytes, then the mark: a mark never promises what is not there.
          if (target.settle()) await this.#keep({ mark: plain(mark) });
          else this.#tell({ ...this.#record, mark: plain(mark) });
        }
        if (mark.hash) sha256.load(mark.hash);
        end = mark.done === source.size ? { status: "done", sha256: sha256.digest() } : { status: "stopped" };
      } catch (cause) {
        end = { status: "failed", because: reason(cause) };
      }
      await target.close();
      await this.#keep({ mark: plain(mark), ...end });
    } catch (cause) {
      // Where not even this can be kept, it was told; the mark that is kept stays true.
      await this.#keep({ status: "failed", because: reason(cause) }).catch(() => undefined);
    }
  }
}

const plain = ({ done, hash, unreadable }: CopyMark): CopyRecord["mark"] => ({
  done,
  hash: hash && new Uint8Array(hash),
  unreadable: unreadable.map(({ offset, length }) => ({ offset, length })),
});

const reason = (cause: unknown): string => {
  if (cause instanceof UnusableError) return cause.message;
  return lacksRoom(cause) ? NO_ROOM : `The copy broke off: ${whyNot(cause)}.`;
};
