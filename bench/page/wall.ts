import { proxy, wrap } from "comlink";
import type { Find } from "../../core/finds/find.ts";
import { EVERYTHING, type Query } from "../../core/finds/find-query.ts";
import { beginning } from "../../core/scan/checkpoint.ts";
import { EVERYTHING_THERE } from "../../core/scan/scope.ts";
import { addJob, database } from "../../web/kept/database.ts";
import { blankJob } from "../../web/kept/job.ts";
import { newScan } from "../../web/kept/kept-scan.ts";
import { newMedium } from "../../web/kept/medium.ts";
import type { IndexWorker } from "../../web/worker/finds/index.worker.ts";
import type { ScanDesk } from "../../web/worker/scan/scan-desk.ts";

/** Finds of the ticket, half of them on each medium, and questions that are asked. */
const FINDS = 200_000;
const PACK = 500;
const QUESTIONS = 120;
/** Packs that are made and kept at a time. */
const AT_A_TIME = 50;

const KINDS = ["photo", "photo", "photo", "video", "audio", "document", "other"] as const;
const STATES = ["present", "erased", "erased", "binned"] as const;
const CONDITIONS = ["whole", "whole", "damaged", "remnant"] as const;

const findOf = (number: number): Find => ({
  id: `m${number}`,
  kind: KINDS[number % KINDS.length],
  format: "jpeg",
  state: STATES[(number * 7) % STATES.length],
  condition: CONDITIONS[(number * 3) % CONDITIONS.length],
  because: "as it was made for measuring",
  checked: true,
  name: `SISK${number}.JPG`,
  path: `/DCIM/${number % 300}SISK3/SISK${number}.JPG`,
  size: 20_000 + ((number * 7919) % 4_000_000),
  modified: Date.UTC(2020, 0, 1) + ((number * 104_729) % 200_000) * 900_000,
  taken: null,
  lastDay: null,
  width: 4000,
  height: 3000,
  seconds: null,
  shown: 1,
  camera: null,
  place: null,
  sha256: null,
  extents: [{ offset: number * 4096, length: 4096 }],
  volume: 0,
  inside: null,
  evidence: [{ pass: "listing", what: "its entry in the folder list", at: number * 32 }],
});

/** What a technician asks for, ever something else. */
export const questionOf = (number: number): Query => ({
  ...EVERYTHING,
  words: ["", "sisk1", "dcim/12", "3sisk3 9"][number % 4],
  kinds: number % 3 === 0 ? ["photo"] : [],
  states: number % 5 === 0 ? ["erased"] : [],
  sort: (["newest", "name", "largest", "oldest"] as const)[Math.floor(number / 10) % 4],
});

/** A ticket with two media and so many finds, kept as scans keep them. */
export async function keepTicket(file: File, finds = FINDS): Promise<{ job: number; media: number[] }> {
  const job = await addJob(blankJob());
  const media: number[] = [];
  const source = { kind: "file", name: file.name, size: file.size, sample: [] as string[] } as const;
  const done = {
    ...newScan(),
    status: "done",
    checkpoint: { ...beginning({ depth: "deep", ...EVERYTHING_THERE }), pass: "done" },
  } as const;
  for (let which = 0; which < 2; which++) {
    const medium = await database.media.add({ ...newMedium(job, { kind: "image", name: `card ${which}`, source }), scan: done });
    media.push(medium);
    const packOf = (number: number) => ({
      medium,
      number,
      finds: Array.from({ length: PACK }, (_, index) => findOf((number * PACK + index) * 2 + which)),
      hidden: [],
    });
    for (let from = 0; from < finds / 2 / PACK; from += AT_A_TIME)
      await database.packs.bulkPut(
        Array.from({ length: Math.min(AT_A_TIME, finds / 2 / PACK - from) }, (_, index) => packOf(from + index)),
      );
  }
  return { job, media };
}

/** Milliseconds of each question, from asking to the answer's arrival at the page. */
export async function measureWall(file: File): Promise<{ finds: number; quiet: number[]; busy: number[]; scanning: boolean }> {
  const { job, media } = await keepTicket(file);
  const index = wrap<IndexWorker>(new Worker(new URL("../../web/worker/finds/index.worker.ts", import.meta.url), { type: "module" }));
  const finds = await index.open(
    job,
    proxy(() => {}),
  );
  const ask = async (count: number) => {
    const times: number[] = [];
    for (let number = 0; number < count; number++) {
      const before = performance.now();
      await index.ask(questionOf(number));
      times.push(performance.now() - before);
    }
    return times;
  };
  const quiet = await ask(QUESTIONS);
  const scans = media.map((medium) =>
    wrap<ScanDesk>(new Worker(new URL("../../web/worker/scan/scan.worker.ts", import.meta.url), { type: "module", name: String(medium) })),
  );
  for (const scan of scans) await scan.start({ kind: "file", file }, { depth: "deep", ...EVERYTHING_THERE });
  await new Promise((later) => setTimeout(later, 1500));
  const busy = await ask(QUESTIONS);
  const rows = await database.media.bulkGet(media);
  return { finds, quiet, busy, scanning: rows.every((row) => row?.scan.status === "running") };
}
