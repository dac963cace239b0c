import { PlaceLedger } from "../../../core/bytes/place-ledger.ts";
import { database } from "../../kept/database.ts";

/** What one worker learned of a medium's bad places, for the others that read it too. */
interface Learned {
  readonly medium: number;
  readonly places: ReturnType<PlaceLedger["kept"]>;
}

const NAME = "jubar places";
/** Milliseconds after which what was learned is told, and kept. */
const TELL_EVERY = 150;
/** A ledger of a dying medium is large: telling it may take one part in so many of the time. */
const SHARE = 20;

/** One medium's ledger in one worker: begun from what is kept, told of by the others, telling them, and kept where nobody else keeps it. */
export class PlaceLink {
  readonly ledger = new PlaceLedger();
  readonly #medium: number;
  readonly #channel = new BroadcastChannel(NAME);
  readonly #timer: ReturnType<typeof setInterval>;
  #told = 0;
  /** Until then, in milliseconds of the worker's clock, nothing is told by itself. */
  #restsUntil = 0;

  private constructor(medium: number) {
    this.#medium = medium;
    this.#channel.onmessage = ({ data }: MessageEvent<Learned>) => {
      if (data.medium !== medium) return;
      const isSettled = this.#told === this.ledger.version;
      this.ledger.merge(data.places);
      if (isSettled) this.#told = this.ledger.version;
    };
    this.#timer = setInterval(() => void this.#settleInTurn(), TELL_EVERY);
    for (const one of [this.#channel, this.#timer]) (one as { unref?(): void }).unref?.();
  }

  static async open(medium: number): Promise<PlaceLink> {
    const link = new PlaceLink(medium);
    const kept = await database.places.get(medium).catch(() => undefined);
    if (kept) link.ledger.merge(kept);
    link.#told = link.ledger.version;
    return link;
  }

  async #settleInTurn(): Promise<void> {
    const began = performance.now();
    if (began < this.#restsUntil) return;
    this.#restsUntil = Number.POSITIVE_INFINITY;
    await this.settle();
    const now = performance.now();
    this.#restsUntil = now + (now - began) * SHARE;
  }

  /** Tells and keeps what was learned since the last time. A medium that was removed has no ledger any more. */
  async settle(): Promise<void> {
    if (this.#told === this.ledger.version) return;
    this.#told = this.ledger.version;
    this.#channel.postMessage({ medium: this.#medium, places: this.ledger.kept() } satisfies Learned);
    await database
      .transaction("rw", database.media, database.places, async () => {
        if (!(await database.media.get(this.#medium))) return;
        const kept = await database.places.get(this.#medium);
        const both = new PlaceLedger();
        if (kept) both.merge(kept);
        both.merge(this.ledger.kept());
        await database.places.put({ medium: this.#medium, ...both.kept() });
      })
      // It is kept again with the next that is learned, or by the scan.
      .catch(() => undefined);
  }

  close(): void {
    clearInterval(this.#timer);
    this.#channel.close();
  }
}
