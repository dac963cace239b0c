import { type Command, readArguments, ScanArguments } from "./command.ts";
import { statusOf } from "./exit-status.ts";
import { findLine, proposalLine, recordLine, summaryLine, troubleLine, volumeLine } from "./lines.ts";
import { mappingsOf } from "./mappings.ts";
import { print } from "./print.ts";
import { runScan } from "./run-scan.ts";
import { Settling } from "./settling.ts";

/** Prints what a scan finds while it goes on: a medium takes hours, and whoever reads wants to know what there is. */
export const scanCommand: Command = {
  name: "scan",
  usage:
    "scan SOURCE [--depth quick|deep] [--kinds photo,video,…] [--erased-only] [--faults FAULTS.json] [--passphrase …] [--mapping FILE.json …] [--without-mappings]",
  run: async (args) => {
    const settling = new Settling();
    const request = readArguments(args, ScanArguments);
    return runScan(
      {
        ...request,
        mappings: await mappingsOf(request),
        async onVolumes(volumes) {
          settling.volumes(volumes);
          await print(volumes.map(volumeLine));
        },
        async onBatch({ finds, patches, troubles, progress, proposals }, known) {
          const proposed = proposals.map((one) => proposalLine(one, one.database === null ? undefined : known.get(one.database)));
          await print([...settling.take(finds, patches, progress.pass).map(findLine), ...troubles.map(troubleLine), ...proposed]);
        },
        onRecords: (records, finds) =>
          print(records.map((record) => recordLine(record, record.database === null ? undefined : finds.get(record.database)))),
      },
      async (scanned) => {
        await print([...settling.rest(scanned.finds).map(findLine), summaryLine(scanned)]);
        return statusOf(scanned);
      },
    );
  },
};
