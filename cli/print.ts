import { once } from "node:events";
import { jsonLine } from "./lines.ts";

/** Writes lines, and waits where the reader is slower. */
export async function print(lines: readonly object[]): Promise<void> {
  if (lines.length === 0) return;
  const written = process.stdout.write(`${lines.map(jsonLine).join("\n")}\n`);
  if (!written) await once(process.stdout, "drain");
}
