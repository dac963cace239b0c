import { wrap } from "comlink";
import { EVERYTHING_THERE } from "../../core/scan/scope.ts";
import { addJob, database } from "../../web/kept/database.ts";
import { blankJob } from "../../web/kept/job.ts";
import { newMedium } from "../../web/kept/medium.ts";
import type { ScanDesk } from "../../web/worker/scan/scan-desk.ts";

/** Milliseconds of the steps to a table's first rows, and of reading its file; rows that there are. */
export interface TablesMeasured {
  readonly rows: number;
  readonly first: number[];
  readonly read: number[];
}

/** Scans a database by itself, as it is dropped, and then has its tables opened. */
export async function measureTables(file: File): Promise<TablesMeasured> {
  const job = await addJob(blankJob());
  const source = { kind: "file", name: file.name, size: file.size, sample: [] as string[] } as const;
  const medium = await database.media.add(newMedium(job, { kind: "export", name: file.name, source }));
  const scan = wrap<ScanDesk>(
    new Worker(new URL("../../web/worker/scan/scan.worker.ts", import.meta.url), { type: "module", name: String(medium) }),
  );
  await scan.start({ kind: "file", file }, { depth: "quick", ...EVERYTHING_THERE });
  for (;;) {
    const status = (await database.media.get(medium))?.scan.status;
    if (status === "done") break;
    if (status === "failed") throw new Error("the scan failed");
    await new Promise((later) => setTimeout(later, 200));
  }
  const worker = new Worker(new URL("./tables-worker.ts", import.meta.url), { type: "module" });
  const told = new Promise<TablesMeasured>((done, fail) => {
    worker.onmessage = ({ data }) => done(data);
    worker.onerror = ({ message }) => fail(new Error(message));
  });
  worker.postMessage({ file, medium });
  return told;
}
