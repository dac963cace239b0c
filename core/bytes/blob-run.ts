import { Turns } from "../work/turns.ts";

/** The part of the File API's Blob that is used (W3C File API §3), so that the core needs no DOM. */
export interface BlobLike {
  readonly size: number;
  slice(start: number, end: number): { arrayBuffer(): Promise<ArrayBuffer>; stream(): ReadableStream<Uint8Array<ArrayBuffer>> };
}

/** Bytes of a reading from which on it counts as one of a run: shorter ones are headers and the like. */
export const LEAST_STREAMED = 1024 * 1024;

interface Open {
  readonly reader: ReadableStreamBYOBReader;
  /** Byte of the blob that it gives next. */
  at: number;
}

/**
 * Reads one stretch after the other from a stream: browsers need a third of the time that slices take, since the bytes are not copied once more
 * (WHATWG Streams §4.5, "bring your own buffer"). A stream is opened where a second large reading begins at the end of the first.
 */
export class BlobRun {
  readonly #blob: BlobLike;
  /** Readings are answered in the order in which they are asked for: several may be asked for at once. */
  readonly #turns = new Turns();
  /** Where the latest large reading ended, whatever gave it. */
  #end = -1;
  #open: Open | null = null;
  /** This blob gives no stream of bytes, or one broke off. */
  #refused = false;

  constructor(blob: BlobLike) {
    this.#blob = blob;
  }

  /** @returns null where it does not go on from the last reading, or where the stream fails: a slice then says why */
  async read(offset: number, length: number): Promise<Uint8Array | null> {
    const goesOn = offset === this.#end;
    this.#end = offset + length;
    if (!goesOn || this.#refused) return null;
    return this.#turns.take(() => this.#next(offset, length));
  }

  async #next(offset: number, length: number): Promise<Uint8Array | null> {
    try {
      const open = this.#open?.at === offset ? this.#open : this.#begin(offset);
      const bytes = await filled(open.reader, length);
      open.at += length;
      if (open.at === this.#blob.size) this.#close();
      return bytes;
    } catch {
      this.#refused = true;
      this.#close();
      return null;
    }
  }

  #begin(offset: number): Open {
    this.#close();
    const stream = this.#blob.slice(offset, this.#blob.size).stream();
    this.#open = { reader: stream.getReader({ mode: "byob" }), at: offset };
    return this.#open;
  }

  #close(): void {
    // Nobody waits for it: what it still had is not wanted.
    this.#open?.reader.cancel().catch(() => {});
    this.#open = null;
  }
}

/** Reads exactly so many bytes. @throws where the stream ends before */
async function filled(reader: ReadableStreamBYOBReader, length: number): Promise<Uint8Array> {
  let buffer = new ArrayBuffer(length);
  for (let done = 0; done < length; ) {
    // The buffer goes to the stream and comes back with what was filled in.
    const { value } = await reader.read(new Uint8Array(buffer, done, length - done));
    if (!value || value.length === 0) throw new Error("the stream ended early");
    buffer = value.buffer;
    done += value.length;
  }
  return new Uint8Array(buffer);
}
