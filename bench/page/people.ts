import { proxy, wrap } from "comlink";
import type { FoundRecord, RecordKind, RecordValues } from "../../core/finds/record.ts";
import { EVERYTHING_THERE } from "../../core/scan/scope.ts";
import { anEntry } from "../../test/records.ts";
import { database } from "../../web/kept/database.ts";
import { ENTRIES_A_PACK, keptEntryOf } from "../../web/kept/kept-people.ts";
import type { IndexWorker } from "../../web/worker/finds/index.worker.ts";
import type { ScanDesk } from "../../web/worker/scan/scan-desk.ts";
import { keepTicket, questionOf } from "./wall.ts";

/** What is kept: finds and messages, of which one conversation has so many. */
const FINDS = 1_000_000;
const MESSAGES = 200_000;
/** Records besides, that carry no words: a million in all. */
const CALLS = 800_000;
const LARGEST = 50_000;
const TALKS = 150;
const QUESTIONS = 60;
/** Messages that a screen shows at first. */
const WINDOW = 60;

const SAID = [
  "Are the puppets dry by now? The fox smelled of river all night.",
  "I talked to Teatrul Lumină. They want us on the 9th, same fee.",
  "Who has the key to the second wagon?",
  "今晚开场别忘了带灯笼",
  "The moon rig snapped again, bring the long rope",
] as const;
/** What a technician types, ever something else: words, parts of words, a number, nothing that was said. */
const WORDS = ["wagon", "lumina", "moon rig", "灯笼", "fox river", "7700900", "nobody says this", "key second"] as const;

const entry = (id: string, kind: RecordKind, values: RecordValues, state: FoundRecord["state"] = "present") =>
  keptEntryOf(anEntry(id, kind, values, { state, store: "telephony" }));

async function keepPeople(medium: number): Promise<void> {
  const talkOf = (number: number) => (number < LARGEST ? 0 : 1 + (number % TALKS));
  const talks = Array.from({ length: TALKS + 1 }, (_, talk) =>
    entry(`t${talk}`, "conversation", { members: [{ address: `+4477009${10_000 + talk}` }], group: false }),
  );
  const keep = (find: string, number: number, entries: ReturnType<typeof entry>[]) =>
    database.people.put({ medium, find, number, scan: 0, entries: entries.filter((one) => one !== null) });
  const packOf = (number: number, entryAt: (at: number) => ReturnType<typeof entry>) =>
    Array.from({ length: ENTRIES_A_PACK }, (_, index) => entryAt(number * ENTRIES_A_PACK + index));
  for (let number = 0; number * ENTRIES_A_PACK < CALLS; number++)
    await keep(
      "e1",
      number,
      packOf(number, (at) =>
        entry(`c${at}`, "call", { number: `+4477009${10_000 + (at % 4000)}`, at: new Date(1_600_000_000_000 + at * 71_000).toISOString() }),
      ),
    );
  for (let number = 0; number * ENTRIES_A_PACK < MESSAGES; number++) {
    const entries = packOf(number, (at) => {
      const talk = talkOf(at);
      const text = `${SAID[at % SAID.length]} ${SAID[(at * 7) % SAID.length]} ${at}`;
      return entry(
        `m${at}`,
        "message",
        {
          conversation: `t${talk}`,
          address: `+4477009${10_000 + talk}`,
          direction: at % 3 === 0 ? "out" : "in",
          at: new Date(1_690_000_000_000 + at * 61_000).toISOString(),
          text,
        },
        at % 11 === 4 ? "erased" : "present",
      );
    });
    await keep("e0", number, [...(number === 0 ? talks : []), ...entries]);
  }
}

/** Milliseconds of questions to finds and messages in turn, quiet and while a medium is scanned; of opening the largest conversation. */
export async function measurePeople(file: File) {
  const { job, media } = await keepTicket(file, FINDS);
  await keepPeople(media[0]);
  const index = wrap<IndexWorker>(new Worker(new URL("../../web/worker/finds/index.worker.ts", import.meta.url), { type: "module" }));
  const finds = await index.open(
    job,
    proxy(() => {}),
  );
  const people = await index.peopleDesk();
  const ask = async () => {
    const times: number[] = [];
    for (let number = 0; number < QUESTIONS; number++) {
      const before = performance.now();
      if (number % 2 === 0) await index.ask(questionOf(number));
      else await people.talks({ words: WORDS[(number >> 1) % WORDS.length] });
      times.push(performance.now() - before);
    }
    return times;
  };
  const quiet = await ask();
  const opened: number[] = [];
  for (let round = 0; round < 5; round++) {
    // Another one in between: what is open is not opened again.
    await people.open(`${media[0]}:t1`);
    const before = performance.now();
    const messages = await people.open(`${media[0]}:t0`);
    const shown = await people.messages(`${media[0]}:t0`, messages - WINDOW, messages);
    opened.push(performance.now() - before);
    if (messages !== LARGEST || shown.length !== WINDOW) throw new Error("the conversation is not whole");
  }
  const [, scanned] = media;
  const scanner = new Worker(new URL("../../web/worker/scan/scan.worker.ts", import.meta.url), { type: "module", name: String(scanned) });
  const scan = wrap<ScanDesk>(scanner);
  await scan.start({ kind: "file", file }, { depth: "deep", ...EVERYTHING_THERE });
  await new Promise((later) => setTimeout(later, 1500));
  const busy = await ask();
  const row = await database.media.get(scanned);
  // Page and index alone are weighed.
  scanner.terminate();
  return { finds, messages: MESSAGES, records: MESSAGES + CALLS, quiet, busy, opened, scanning: row?.scan.status === "running" };
}
