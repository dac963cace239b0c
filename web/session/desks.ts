import { type Remote, transfer, wrap } from "comlink";
import type { IndexWorker } from "../worker/finds/index.worker.ts";
import type { IndexDesk } from "../worker/finds/index-desk.ts";
import type { PeopleDesk } from "../worker/finds/people-desk.ts";
import type { ReadingDesk } from "../worker/reading/reading-desk.ts";
import type { ScanDesk } from "../worker/scan/scan-desk.ts";

/** The workers of one ticket: finds, reading, and one for each medium that is scanned. */
export interface Desks {
  readonly index: Remote<IndexDesk>;
  /** Conversations, contacts, calls and dates, in the same worker as the finds. */
  readonly people: Promise<Remote<PeopleDesk>>;
  readonly reading: Remote<ReadingDesk>;
  /** Started when it is first asked for. */
  scan(medium: number): Remote<ScanDesk>;
  /** Ends all of them. */
  close(): void;
}

export function openDesks(): Desks {
  const workers = [
    new Worker(new URL("../worker/finds/index.worker.ts", import.meta.url), { type: "module" }),
    new Worker(new URL("../worker/reading/reading.worker.ts", import.meta.url), { type: "module" }),
  ];
  const index = wrap<IndexWorker>(workers[0]);
  const reading = wrap<ReadingDesk>(workers[1]);
  const { port1, port2 } = new MessageChannel();
  void index.serve(transfer(port1, [port1]));
  void reading.connect(transfer(port2, [port2]));
  const scans = new Map<number, Remote<ScanDesk>>();
  return {
    index,
    people: index.peopleDesk(),
    reading,
    scan(medium) {
      const known = scans.get(medium);
      if (known) return known;
      const worker = new Worker(new URL("../worker/scan/scan.worker.ts", import.meta.url), { type: "module", name: String(medium) });
      workers.push(worker);
      const desk = wrap<ScanDesk>(worker);
      scans.set(medium, desk);
      return desk;
    },
    close() {
      for (const worker of workers) worker.terminate();
    },
  };
}
