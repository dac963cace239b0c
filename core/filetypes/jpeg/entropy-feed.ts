import type { ByteSource } from "../../bytes/source.ts";

/** Bytes asked for at a time. */
const CHUNK = 256 * 1024;

/**
 * The bytes of a scan, chunk after chunk, with the stuffed zero bytes of T.81 §F.1.2.3 taken out, up to the next marker.
 * `bytes[at..end)` is what is ready.
 */
export class EntropyFeed {
  readonly #content: ByteSource;
  /** Next byte of the content that was not looked at. */
  #next: number;
  bytes = new Uint8Array(CHUNK * 2);
  end = 0;
  /** The marker that ended the segment: its code, and where its 0xFF stands in the content. Null: not reached yet. */
  marker: { code: number; at: number } | null = null;
  /** True when the content ended before a marker came. */
  exhausted = false;

  constructor(content: ByteSource, at: number) {
    this.#content = content;
    this.#next = at;
  }

  /** Byte of the content up to which everything was looked at: where the walk stands, within a chunk. */
  get position(): number {
    return this.#next;
  }

  /** Begins the segment after a marker. */
  beginAfterMarker(): void {
    if (this.marker) this.#next = this.marker.at + 2;
    this.marker = null;
    this.end = 0;
  }

  /** Keeps the bytes from `at` on, moves them to the front and adds a chunk. Then reading goes on at byte 0. */
  async fill(at: number): Promise<void> {
    this.bytes.copyWithin(0, at, this.end);
    this.end -= at;
    if (this.marker || this.exhausted) return;
    const length = Math.min(CHUNK, this.#content.size - this.#next);
    if (length <= 0) {
      this.exhausted = true;
      return;
    }
    this.#unstuff(await this.#content.read(this.#next, length));
  }

  #unstuff(chunk: Uint8Array): void {
    if (this.bytes.length < this.end + chunk.length) {
      const larger = new Uint8Array((this.end + chunk.length) * 2);
      larger.set(this.bytes.subarray(0, this.end));
      this.bytes = larger;
    }
    const last = chunk.length - 1;
    let from = 0;
    for (;;) {
      const ff = chunk.indexOf(0xff, from);
      const stop = ff < 0 ? chunk.length : ff;
      this.bytes.set(chunk.subarray(from, stop), this.end);
      this.end += stop - from;
      if (ff < 0) break;
      if (ff === last) {
        // What follows decides; ask for it again with the next chunk, unless there is none.
        if (this.#next + chunk.length >= this.#content.size) break;
        this.#next += ff;
        return;
      }
      const code = chunk[ff + 1];
      if (code === 0) {
        this.bytes[this.end++] = 0xff;
        from = ff + 2;
      } else if (code === 0xff)
        from = ff + 1; // fill byte, §B.1.1.2
      else {
        this.marker = { code, at: this.#next + ff };
        this.#next += ff;
        return;
      }
    }
    this.#next += chunk.length;
  }
}
