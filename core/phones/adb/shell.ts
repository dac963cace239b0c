import type { Adb } from "@yume-chan/adb";

/** What a command on the phone said. Older phones give no status: then it is null, and errors stand in `out`. */
export interface Said {
  readonly out: string;
  readonly err: string;
  readonly status: number | null;
}

/**
 * Waits for an answer only as long as the phone is connected: the library leaves questions open that were on their way when
 * the cable was pulled. @throws Error when the connection ends first
 */
export function whileConnected<T>(adb: Adb, answer: Promise<T>): Promise<T> {
  const gone = () => {
    throw new Error("the phone is not connected any more");
  };
  return Promise.race([answer, adb.disconnected.then(gone, gone)]);
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
