import type { Adb } from "@yume-chan/adb";

/** What a command on the phone said. Older phones give no status: then it is null, and errors stand in `out`. */
export interface Said {
  readonly out: string;
  readonly err: string;
  readonly status: number | null;
}

/** A connection, as far as waiting goes: whoever waits for an answer, until it is gone. */
interface Line {
  readonly waiters: Set<(gone: Error) => void>;
  gone: boolean;
}
const lines = new WeakMap<Adb, Line>();
const GONE = "the phone is not connected any more";

function lineOf(adb: Adb): Line {
  const known = lines.get(adb);
  if (known) return known;
  const line: Line = { waiters: new Set(), gone: false };
  lines.set(adb, line);
  const tell = () => {
    line.gone = true;
    for (const hear of line.waiters) hear(new Error(GONE));
  };
  adb.disconnected.then(tell, tell);
  return line;
}

/**
 * Waits for an answer only as long as the phone is connected: the library leaves questions open that were on their way when
 * the cable was pulled. Promise.race would do, but would keep every answer for as long as the connection lasts.
 * @throws Error when the connection ends first
 */
export function whileConnected<T>(adb: Adb, answer: Promise<T>): Promise<T> {
  const line = lineOf(adb);
  return new Promise((resolve, reject) => {
    line.waiters.add(reject);
    answer.then(resolve, reject).finally(() => line.waiters.delete(reject));
    if (line.gone) reject(new Error(GONE));
  });
}

/** Runs one command as the shell user. @throws Error when the connection ends */
export const runOnPhone = (adb: Adb, command: string): Promise<Said> => whileConnected(adb, run(adb, command));

async function run(adb: Adb, command: string): Promise<Said> {
  const shell = adb.subprocess.shellProtocol;
  if (!shell) return { out: await adb.subprocess.noneProtocol.spawnWaitText(command), err: "", status: null };
  const { stdout, stderr, exitCode } = await shell.spawnWaitText(command);
  return { out: stdout, err: stderr, status: exitCode };
}

/** A word as a shell takes it literally (POSIX.1-2017, Shell Command Language §2.2.2). */
export const quoted = (word: string): string => `'${word.replaceAll("'", `'\\''`)}'`;
