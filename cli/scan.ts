import type { Find } from "../core/finds/find.ts";
import type { FoundRecord } from "../core/finds/record.ts";
import { type Command, readArguments, ScanArguments } from "./command.ts";
import { statusOf } from "./exit-status.ts";
import { findLine, recordLine, summaryLine, troubleLine, volumeLine } from "./lines.ts";
import { print } from "./print.ts";
import { runScan } from "./run-scan.ts";

export const scanCommand: Command = {
  name: "scan",
  usage: "scan SOURCE [--depth quick|deep] [--kinds photo,video,…] [--faults FAULTS.json] [--passphrase …]",
  run: (args) => {
    const printed = (records: readonly FoundRecord[], finds: ReadonlyMap<string, Find>) =>
      print(records.map((record) => recordLine(record, record.database === null ? undefined : finds.get(record.database))));
    return runScan({ ...readArguments(args, ScanArguments), onRecords: printed }, async (scanned) => {
      await print([
        ...scanned.volumes.map(volumeLine),
        ...Array.from(scanned.finds.values(), findLine),
        ...scanned.troubles.map(troubleLine),
        summaryLine(scanned),
      ]);
      return statusOf(scanned);
    });
  },
};
