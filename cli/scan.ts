import { type Command, readArguments, ScanArguments } from "./command.ts";
import { statusOf } from "./exit-status.ts";
import { findLine, summaryLine, troubleLine, volumeLine } from "./lines.ts";
import { runScan } from "./run-scan.ts";

export const scanCommand: Command = {
  name: "scan",
  usage: "scan SOURCE [--depth quick|deep] [--kinds photo,video,…] [--faults FAULTS.json]",
  run: (args) =>
    runScan(readArguments(args, ScanArguments), async (scanned) => {
      const lines = [
        ...scanned.volumes.map(volumeLine),
        ...Array.from(scanned.finds.values(), findLine),
        ...scanned.troubles.map(troubleLine),
        summaryLine(scanned),
      ];
      for (const line of lines) process.stdout.write(`${JSON.stringify(line)}\n`);
      return statusOf(scanned);
    }),
};
