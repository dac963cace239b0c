import { UnusableError } from "../core/bytes/source.ts";
import { whyNot } from "../core/handover/refusals.ts";
import type { Command } from "./command.ts";
import { UNUSABLE } from "./exit-status.ts";
import { practiceCommand } from "./practice.ts";
import { saveCommand } from "./save.ts";
import { scanCommand } from "./scan.ts";

/** Adding a command is adding its file and its line here. */
const COMMANDS: readonly Command[] = [scanCommand, saveCommand, practiceCommand];

async function main([name, ...args]: string[]): Promise<number> {
  const command = COMMANDS.find((one) => one.name === name);
  if (!command) {
    process.stderr.write(`usage:\n${COMMANDS.map(({ usage }) => `  jubar ${usage}`).join("\n")}\n`);
    return UNUSABLE;
  }
  try {
    return await command.run(args);
  } catch (cause) {
    if (!(cause instanceof UnusableError)) throw cause;
    process.stderr.write(`${cause.message}\n`);
    return UNUSABLE;
  }
}

// A reader that closes early (head, less) ends the work quietly; anything else that ends it says so: a full disk above all.
process.stdout.on("error", (cause: NodeJS.ErrnoException) => {
  if (cause.code === "EPIPE") process.exit(0);
  process.stderr.write(`What was found cannot be written: ${whyNot(cause)}.\n`);
  process.exit(UNUSABLE);
});
process.exitCode = await main(process.argv.slice(2));
