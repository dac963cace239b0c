import type { Adb } from "@yume-chan/adb";
import { UnusableError } from "../../bytes/source.ts";
import { drained } from "./phone-file-source.ts";
import { PrintedRows, type ProviderRow } from "./printed-rows.ts";
import type { ProviderQuery } from "./provider-queries.ts";
import { quoted, whileConnected } from "./shell.ts";

/** A provider does not tell this: it refuses, or is not there. */
export class ProviderRefused extends Error {
  constructor(readonly because: string) {
    super(because);
    this.name = "ProviderRefused";
  }
}

/** How a command on the phone ends. Status null: an older phone, which tells none. */
interface Ended {
  readonly status: number | null;
  readonly errors: string;
}
interface Running {
  readonly output: { read(): Promise<{ done: boolean; value?: Uint8Array }> };
  readonly ended: Promise<Ended>;
  kill(): Promise<unknown>;
}

async function run(adb: Adb, command: string): Promise<Running> {
  const shell = adb.subprocess.shellProtocol;
  if (!shell) {
    const process = await adb.subprocess.noneProtocol.spawn(command);
    return {
      output: process.output.getReader(),
      ended: Promise.resolve({ status: null, errors: "" }),
      kill: async () => process.kill(),
    };
  }
  const process = await shell.spawn(command);
  const errors = errorsOf(process.stderr.getReader());
  return {
    output: process.stdout.getReader(),
    ended: Promise.all([process.exited, errors]).then(([status, words]) => ({ status, errors: words })),
    kill: async () => process.kill(),
  };
}

/** Letters of what a command complains of. */
const MAX_ERRORS = 4096;
async function errorsOf(pieces: Running["output"]): Promise<string> {
  const decoder = new TextDecoder();
  let words = "";
  for (;;) {
    const { done, value } = await pieces.read().catch(() => ({ done: true, value: undefined }));
    if (done || !value) return words;
    if (words.length < MAX_ERRORS) words += decoder.decode(value, { stream: true }).slice(0, MAX_ERRORS);
  }
}

/** What the `content` command prints where a provider gives nothing (Android Open Source Project, frameworks/base/cmds/content). */
const REFUSED = /^(\[ERROR\]|Error while accessing provider)/m;

/** Output of a command, piece by piece. @throws Error when the connection ends, UnusableError when `signal` aborts */
async function* outputOf(adb: Adb, running: Running, signal?: AbortSignal): AsyncGenerator<Uint8Array> {
  let isOver = false;
  try {
    for (;;) {
      if (signal?.aborted) throw new UnusableError("Asking was stopped.");
      const { done, value } = await whileConnected(adb, running.output.read());
      if (done || !value) {
        isOver = true;
        return;
      }
      yield value;
    }
  } finally {
    // What is on its way has to be taken, or it would hold up every other conversation with this phone.
    if (!isOver) {
      await running.kill().catch(() => undefined);
      void drained(running.output);
    }
  }
}

/**
 * Rows of a provider as the phone prints them: never all of them at once.
 * @throws ProviderRefused where the phone does not tell them, or breaks off; Error when the connection ends
 */
export async function* rowsOfProvider(adb: Adb, query: ProviderQuery, signal?: AbortSignal): AsyncGenerator<ProviderRow[]> {
  for (const columns of [query.columns, query.older]) {
    if (!columns) break;
    const printed = new PrintedRows(columns);
    const condition = query.where ? ` --where ${quoted(query.where)}` : "";
    const command = `content query --uri ${quoted(query.uri)} --projection ${columns.join(":")}${condition}`;
    const running = await whileConnected(adb, run(adb, command));
    const decoder = new TextDecoder();
    try {
      for await (const piece of outputOf(adb, running, signal)) {
        const rows = printed.push(decoder.decode(piece, { stream: true }));
        if (rows.length > 0) yield rows;
      }
    } catch (cause) {
      if (cause instanceof RangeError) throw new ProviderRefused(cause.message);
      throw cause;
    }
    const last = printed.end();
    if (last.length > 0) yield last;
    const { status, errors } = await whileConnected(adb, running.ended);
    const isRefused = (status !== null && status !== 0) || REFUSED.test(errors) || REFUSED.test(printed.words);
    if (!isRefused) return;
    if (printed.count > 0) throw new ProviderRefused(`its answer broke off after ${printed.count} rows`);
  }
  throw new ProviderRefused("the phone does not tell them to the debugging shell");
}

/** @returns all rows of a small answer, or null where the phone does not let the shell ask this provider. @throws Error when the connection ends */
export async function askProvider(adb: Adb, query: ProviderQuery): Promise<ProviderRow[] | null> {
  const all: ProviderRow[] = [];
  try {
    for await (const rows of rowsOfProvider(adb, query)) for (const row of rows) all.push(row);
  } catch (cause) {
    if (cause instanceof ProviderRefused) return null;
    throw cause;
  }
  return all;
}

/**
 * What a provider gives as a file: a part of a message, a picture.
 * @param most bytes; what is longer is not read. @returns null where it gives none. @throws Error when the connection ends
 */
export async function readOfProvider(adb: Adb, uri: string, most: number, signal?: AbortSignal): Promise<Uint8Array | null> {
  const running = await whileConnected(adb, run(adb, `content read --uri ${quoted(uri)}`));
  const pieces: Uint8Array[] = [];
  let length = 0;
  for await (const piece of outputOf(adb, running, signal)) {
    length += piece.length;
    if (length > most) return null;
    pieces.push(piece);
  }
  const { status, errors } = await whileConnected(adb, running.ended);
  const bytes = new Uint8Array(length);
  let at = 0;
  for (const piece of pieces) {
    bytes.set(piece, at);
    at += piece.length;
  }
  const words = errors || new TextDecoder("latin1").decode(bytes.subarray(0, MAX_ERRORS));
  return length === 0 || (status !== null && status !== 0) || REFUSED.test(words) ? null : bytes;
}
