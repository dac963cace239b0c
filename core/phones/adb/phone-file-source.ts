import type { Adb, AdbNoneProtocolProcess } from "@yume-chan/adb";
import { type ByteSource, checkRange, UnreadableError, UnusableError } from "../../bytes/source.ts";
import { Turns } from "../../work/turns.ts";
import { quoted, runOnPhone, whileConnected } from "./shell.ts";

/** The stream of `dd` starts at a multiple of this. */
const BLOCK = 1024 * 1024;
/** Shorter reads that do not go on where the last one ended are asked for on their own, sector by sector. */
const SHORT = 64 * 1024;
const SECTOR = 512;
/** A jump forward that is cheaper read over than asked for anew. */
const SKIP_OVER = 4 * BLOCK;

/** Who reads: the shell user as it is, or a program that gives elevated access. */
export type Reader = "plain" | "su";
export const asReader = (reader: Reader, command: string): string => (reader === "su" ? `su -c ${quoted(command)}` : command);

/** One run of `dd` from a place on: pieces as they come, until its end. */
class Flow {
  readonly #process: AdbNoneProtocolProcess;
  readonly #pieces: ReadableStreamDefaultReader;
  #left: Uint8Array = new Uint8Array(0);
  at: number;

  constructor(process: AdbNoneProtocolProcess, at: number) {
    this.#process = process;
    this.#pieces = process.output.getReader();
    this.at = at;
  }

  /** The next bytes, at most `length`; null when there are no more. */
  async some(length: number): Promise<Uint8Array | null> {
    if (this.#left.length === 0) {
      const { done, value } = await this.#pieces.read();
      if (done || !value) return null;
      this.#left = value;
    }
    const bytes = this.#left.subarray(0, length);
    this.#left = this.#left.subarray(bytes.length);
    this.at += bytes.length;
    return bytes;
  }

  /** What is on its way has to be taken, or it would hold up every other conversation with this phone. */
  async end(): Promise<void> {
    await Promise.resolve(this.#process.kill()).catch(() => undefined);
    void drained(this.#pieces);
  }
}

/** Reads a stream to its end, and throws it away. */
export async function drained(pieces: { read(): Promise<{ done: boolean }> }): Promise<void> {
  const over = () => ({ done: true });
  while (!(await pieces.read().catch(over)).done);
}

type ReadableStreamDefaultReader = ReturnType<AdbNoneProtocolProcess["output"]["getReader"]>;

/**
 * A file or raw partition of a phone, read over its debugging daemon by `dd`, and never written. Reading on from where the
 * last read ended goes on in the same run: one long stream, at the speed of the cable.
 */
export class PhoneFileSource implements ByteSource {
  readonly name: string;
  readonly size: number;
  readonly #adb: Adb;
  readonly #path: string;
  readonly #reader: Reader;
  #flow: Flow | null = null;
  readonly #turns = new Turns();

  constructor(adb: Adb, path: string, size: number, reader: Reader, name = path) {
    this.#adb = adb;
    this.#path = path;
    this.size = size;
    this.#reader = reader;
    this.name = name;
  }

  /** @throws UnreadableError where the phone reports a bad place, UnusableError when the phone does not answer any more */
  read(offset: number, length: number): Promise<Uint8Array> {
    checkRange(this, offset, length);
    return this.#turns.take(() => this.#read(offset, length));
  }

  /** Ends the run that is under way. */
  async close(): Promise<void> {
    await this.#flow?.end();
    this.#flow = null;
  }

  async #read(offset: number, length: number): Promise<Uint8Array> {
    try {
      return await whileConnected(this.#adb, this.#fill(offset, length));
    } catch (cause) {
      await this.close();
      if (cause instanceof UnreadableError) throw cause;
      throw new UnusableError(`${this.name} does not answer any more: look at the cable, then go on.`);
    }
  }

  async #fill(offset: number, length: number): Promise<Uint8Array> {
    if (length <= SHORT && offset !== this.#flow?.at) return this.#once(offset, length);
    const flow = await this.#flowTo(offset);
    const bytes = new Uint8Array(length);
    let filled = 0;
    let skip = offset - flow.at;
    while (skip > 0 || filled < length) {
      const piece = await flow.some(skip > 0 ? skip : length - filled);
      if (!piece) throw await this.#badPlace(offset + filled, length - filled);
      if (skip > 0) skip -= piece.length;
      else {
        bytes.set(piece, filled);
        filled += piece.length;
      }
    }
    return bytes;
  }

  /** Just these bytes: a place beside a bad one is not lost with it. */
  async #once(offset: number, length: number): Promise<Uint8Array> {
    await this.close();
    const first = Math.floor(offset / SECTOR);
    const count = Math.ceil((offset + length) / SECTOR) - first;
    const bytes = await this.#adb.subprocess.noneProtocol.spawnWait(this.#command(SECTOR, first, `count=${count} `));
    const from = offset - first * SECTOR;
    if (bytes.length < from + length)
      throw await this.#badPlace(Math.max(offset, first * SECTOR + bytes.length), from + length - Math.max(from, bytes.length));
    return bytes.subarray(from, from + length);
  }

  /** The phone is there and still gives no more: a bad place. One that is gone does not answer this. */
  async #badPlace(offset: number, length: number): Promise<UnreadableError> {
    await runOnPhone(this.#adb, "id");
    return new UnreadableError(offset, length);
  }

  #command(block: number, skip: number, more = ""): string {
    return asReader(this.#reader, `dd if=${quoted(this.#path)} bs=${block} skip=${skip} ${more}2>/dev/null`);
  }

  async #flowTo(offset: number): Promise<Flow> {
    if (this.#flow && this.#flow.at <= offset && offset - this.#flow.at <= SKIP_OVER) return this.#flow;
    await this.close();
    const skip = Math.floor(offset / BLOCK);
    this.#flow = new Flow(await this.#adb.subprocess.noneProtocol.spawn(this.#command(BLOCK, skip)), skip * BLOCK);
    return this.#flow;
  }
}
