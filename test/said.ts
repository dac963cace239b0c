import { once } from "node:events";
import type { Readable } from "node:stream";

/** Waits until a program's output holds a word: what it prints before that may come alone. */
export async function said(output: Readable, word: string): Promise<void> {
  let all = "";
  while (!all.includes(word)) all += String((await once(output, "data"))[0]);
}
