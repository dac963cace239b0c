import { patientSource } from "../../core/bytes/patient-source.ts";
import { database } from "../../web/kept/database.ts";
import { keptRows } from "../../web/worker/reading/kept-rows.ts";
import { TableDesk } from "../../web/worker/reading/table-desk.ts";
import { openGrant } from "../../web/worker/storage/open-grant.ts";

const ROUNDS = 3;
const PIECE = 1024 * 1024;
/** Rows that a screen shows at first. */
const WINDOW = 100;

/** The first rows of the largest table of a database that was scanned, from nothing at hand; and its file, read in pieces. */
async function measure({ file, medium }: { file: File; medium: number }) {
  const packs = await database.packs.where("medium").equals(medium).toArray();
  const find = packs.flatMap(({ finds }) => finds).find(({ format }) => format === "sqlite");
  if (!find) throw new Error("no database was found");
  const [first, read]: [number[], number[]] = [[], []];
  let rows = 0;
  for (let round = 0; round < ROUNDS; round++) {
    let before = performance.now();
    for (let at = 0; at < file.size; at += PIECE) await file.slice(at, at + PIECE).arrayBuffer();
    read.push(performance.now() - before);
    before = performance.now();
    const source = patientSource(await openGrant({ kind: "file", file }));
    const desk = await TableDesk.open(find, [find], source, await keptRows(medium, find.id), new AbortController().signal, () => {
      throw new Error("its rows were not kept");
    });
    const [largest] = desk.tables().sort((a, b) => b.present - a.present);
    const { total } = await desk.ask({ table: largest.name, states: [], edited: false, words: "", sort: null });
    const shown = await desk.window(0, WINDOW);
    first.push(performance.now() - before);
    if (shown.length !== WINDOW) throw new Error("no rows came");
    rows = total;
  }
  return { rows, first, read };
}

self.onmessage = ({ data }) => void measure(data).then(postMessage, (cause: unknown) => setTimeout(() => Promise.reject(cause)));
