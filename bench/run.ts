import { execFileSync } from "node:child_process";
import { openSync, statSync, writeFileSync } from "node:fs";
import { cpus } from "node:os";
import { join, resolve } from "node:path";
import { z } from "zod";
import { CARD_BYTES, cardImage, PLANTED } from "./card-image.ts";
import { PlainChromium } from "./chromium.ts";
import { ERASED_FILES, LISTED_FILES, listingImage, MEDIUM_GIB, quickScan, stockListing } from "./listing.ts";
import { longFilm, mixedWall } from "./looking.ts";
import { messagesDatabase } from "./messages-database.ts";
import { messengerDatabase } from "./messenger-database.ts";
import { FILM_PIECES, filmCard, MIXED_FILES, mixedCard } from "./mixed-card.ts";
import { pullInChromium } from "./page-pull.ts";
import { buildPage, servePage } from "./page-server.ts";
import { peopleInChromium } from "./people.ts";
import { CONTACTS, MESSAGES } from "./people-counts.ts";
import { proposalOf } from "./proposal.ts";
import { FILE_MIB, Pulls } from "./pulls.ts";
import { stockProgram } from "./stock-recover.ts";
import { tablesInChromium } from "./tables.ts";
import { scrolledTalk } from "./talk.ts";
import { wallInChromium } from "./wall.ts";

const ROUNDS = 3;
const CACHE = "bench/cache";
const PAGE = join(CACHE, "page");
const RESULT = "docs/BENCHMARKS.md";
/** Files of two sizes are pulled through the page: its memory must not tell which. */
const SMALL_MIB = 64;
const LARGE_MIB = 512;
/** Messages of the database whose table is opened. */
const TABLE_ROWS = 1_000_000;
const image = resolve(cardImage(join(CACHE, "card-1g.img")));

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
const say = (line: string) => process.stdout.write(`${line}\n`);
const Measured = z.object({ seconds: z.number(), whole: z.number(), peakMiB: z.number() });

/** A process of its own, so that its memory is its own. */
const inNode = (what: "scan" | "read" | "hash") =>
  Measured.parse(JSON.parse(execFileSync(process.execPath, ["--import", "tsx", "bench/node-scan.ts", what, image], { encoding: "utf8" })));

function sha256sum(): number {
  const started = performance.now();
  execFileSync("sha256sum", [image]);
  return (performance.now() - started) / 1000;
}

const Rounds = z.array(z.object({ read: z.number(), scan: z.number(), whole: z.number() })).min(1);

async function inChromium(what: "speed" | "memory") {
  const { server, address, posted } = await servePage(PAGE);
  const chromium = new PlainChromium();
  try {
    await chromium.open(`${address}/?${what}`);
    await chromium.giveFile(image);
    const rounds = Rounds.parse(JSON.parse(await posted));
    return { rounds, peakMiB: chromium.peakRendererMiB() };
  } finally {
    await chromium.close();
    server.close();
  }
}

say(`measuring on ${image}`);
// The first reading fills the system's cache for all that follow.
inNode("read");
const node = Array.from({ length: ROUNDS }, () => ({ sum: sha256sum(), hash: inNode("hash"), read: inNode("read"), scan: inNode("scan") }));
await buildPage(PAGE);
const browser = await inChromium("speed");
const { peakMiB } = await inChromium("memory");
const pulls = Pulls.parse(
  JSON.parse(execFileSync(process.execPath, ["--import", "tsx", "bench/node-pulls.ts", String(ROUNDS)], { encoding: "utf8" })),
);
/** People's data of a crowded phone: taken, and read to their end. */
const Crowd = z.object({ taken: z.number(), read: z.number(), stock: z.number(), entries: z.number(), peakMiB: z.number() });
const crowd = Array.from({ length: ROUNDS }, () =>
  Crowd.parse(JSON.parse(execFileSync(process.execPath, ["--import", "tsx", "bench/node-people.ts"], { encoding: "utf8" }))),
);
const listing = resolve(listingImage(join(CACHE, "phone-16g.img")));
quickScan(listing);
const lists = Array.from({ length: ROUNDS }, () => ({ stock: stockListing(listing), own: quickScan(listing) }));
const messages = resolve(messagesDatabase(join(CACHE, "messages-1g.db")));
const program = stockProgram(CACHE);
/** All rows by Jubar, reading the same bytes, and the stock program's salvage, in turn. */
const Rows = z.object({ seconds: z.number(), present: z.number(), erased: z.number(), peakMiB: z.number() });
const readMessages = () =>
  Measured.parse(
    JSON.parse(execFileSync(process.execPath, ["--import", "tsx", "bench/node-scan.ts", "read", messages], { encoding: "utf8" })),
  );
readMessages();
const recovered = Array.from({ length: ROUNDS }, () => {
  const read = readMessages();
  const own = Rows.parse(
    JSON.parse(execFileSync(process.execPath, ["--import", "tsx", "bench/node-rows.ts", messages], { encoding: "utf8" })),
  );
  const started = performance.now();
  if (program) execFileSync(program, [messages, ".recover"], { stdio: ["ignore", openSync("/dev/null", "w"), "inherit"] });
  return { read: read.seconds, own, stock: program ? (performance.now() - started) / 1000 : Number.NaN };
});
const [small, large] = [await pullInChromium(PAGE, SMALL_MIB), await pullInChromium(PAGE, LARGE_MIB)];
const wall = await wallInChromium(PAGE, image);
const people = await peopleInChromium(PAGE, image);
const tables = await tablesInChromium(PAGE, resolve(messagesDatabase(join(CACHE, "messages-1m.db"), TABLE_ROWS)));
// The application itself, as it is built now.
execFileSync("npx", ["vite", "build", "--logLevel", "error"]);
const film = filmCard(join(CACHE, "film-1g.img"));
const films = [];
for (let round = 0; round < ROUNDS; round++) films.push(await longFilm(resolve(film)));
const proposed = proposalOf(messengerDatabase(join(CACHE, "messenger-100m.db"), 420_000));
const talk = await scrolledTalk(resolve(messengerDatabase(join(CACHE, "messenger-talk.db"), 60_000, 53_000)));
const mixed = await mixedWall(resolve(mixedCard(join(CACHE, "mixed.img"))));
const gib = CARD_BYTES / 1024 ** 3;
const rows: [string, string, string, string][] = [
  [
    "deep scan, Node, finds hashed",
    `${(median(node.map(({ scan }) => scan.seconds)) / gib).toFixed(2)} s/GiB`,
    `${median(node.map(({ scan, sum }) => scan.seconds / sum)).toFixed(2)} × sha256sum`,
    "≤ 1",
  ],
  ["", "", `${median(node.map(({ scan, hash }) => scan.seconds / hash.seconds)).toFixed(2)} × Node's own SHA-256`, ""],
  ["", "", `${median(node.map(({ scan, read }) => scan.seconds / read.seconds)).toFixed(1)} × reading in Node`, ""],
  [
    "deep scan, Chromium worker",
    `${(median(browser.rounds.map(({ scan }) => scan)) / gib).toFixed(2)} s/GiB`,
    `${median(browser.rounds.map(({ scan, read }) => scan / read)).toFixed(2)} × reading the same slices`,
    "≤ 2.0",
  ],
  [
    `quick scan, ext4 with ${LISTED_FILES.toLocaleString("en")} files, ${ERASED_FILES.toLocaleString("en")} of them erased`,
    `${median(lists.map(({ own }) => own.seconds)).toFixed(1)} s`,
    `${median(lists.map(({ own, stock }) => own.seconds / stock)).toFixed(2)} × listing the present ones by debugfs`,
    "",
  ],
  [
    "its finds",
    `${lists[0].own.present.toLocaleString("en")} present, ${lists[0].own.erased.toLocaleString("en")} erased`,
    `${((100 * lists[0].own.bytesRead) / (MEDIUM_GIB * 1024 ** 3)).toFixed(2)} % of ${MEDIUM_GIB} GiB read`,
    "< 2 %",
  ],
  [
    `people's data of a phone over debugging: ${CONTACTS.toLocaleString("en")} contacts, ${MESSAGES.toLocaleString("en")} messages, taken as they come`,
    `${median(crowd.map(({ taken }) => taken)).toFixed(1)} s`,
    `${median(crowd.map(({ taken, stock }) => taken / stock)).toFixed(2)} × asking the same by the stock adb`,
    "",
  ],
  [
    "the same, read by the stores",
    `${median(crowd.map(({ read }) => read)).toFixed(1)} s`,
    `${crowd[0].entries.toLocaleString("en")} entries; peak of both ${Math.max(...crowd.map(({ peakMiB: peak }) => peak)).toFixed(0)} MiB`,
    "",
  ],
  ["its peak memory, Node", `${Math.max(...lists.map(({ own }) => own.peakMiB)).toFixed(0)} MiB`, "", ""],
  [
    `rows of a messages database of 1 GiB, a tenth deleted, Node: ${recovered[0].own.present.toLocaleString("en")} there, ${recovered[0].own.erased.toLocaleString("en")} erased`,
    `${median(recovered.map(({ own }) => own.seconds)).toFixed(1)} s`,
    `${median(recovered.map(({ own, read }) => own.seconds / read)).toFixed(0)} × reading the file`,
    "≤ 25",
  ],
  ["", "", `${median(recovered.map(({ own, stock }) => own.seconds / stock)).toFixed(2)} × \`.recover\` of the stock program`, "≤ 0.25"],
  ["its peak memory, Node", `${Math.max(...recovered.map(({ own }) => own.peakMiB)).toFixed(0)} MiB`, "", "≤ 300"],
  ["peak memory, Node", `${Math.max(...node.map(({ scan }) => scan.peakMiB)).toFixed(0)} MiB`, "", "≤ 250"],
  ["peak memory, renderer, scans only", `${peakMiB.toFixed(0)} MiB`, "", "≤ 450"],
  [
    `pull of a file of ${FILE_MIB} MiB, our client in Node`,
    `${median(pulls.map(({ file }) => file.own)).toFixed(2)} s`,
    `${median(pulls.map(({ file }) => file.own / file.stock)).toFixed(2)} × adb pull`,
    "≤ 2.5",
  ],
  [
    `raw partition of ${FILE_MIB} MiB, our client in Node`,
    `${median(pulls.map(({ partition }) => partition.own)).toFixed(2)} s`,
    `${median(pulls.map(({ partition }) => partition.own / partition.stock)).toFixed(2)} × adb exec-out`,
    "≤ 1.5",
  ],
  [`pull in a Chromium worker through the tunnel, ${LARGE_MIB} MiB`, `${(LARGE_MIB / large.seconds).toFixed(0)} MiB/s`, "", ""],
  [
    `renderer memory, ${LARGE_MIB} MiB pulled against ${SMALL_MIB} MiB`,
    `${large.peakMiB.toFixed(0)} MiB against ${small.peakMiB.toFixed(0)} MiB`,
    `${(large.peakMiB / small.peakMiB).toFixed(2)} ×`,
    "does not grow with the file",
  ],
  [
    `filters over ${wall.finds.toLocaleString("en")} finds while both media are scanned, 95 of 100 answers`,
    `${wall.busy.toFixed(0)} ms`,
    `${(wall.busy / wall.quiet).toFixed(1)} × when nothing is scanned`,
    "≤ 100 ms",
  ],
  [
    `questions to ${people.finds.toLocaleString("en")} finds and ${people.messages.toLocaleString("en")} messages while a medium is scanned, 95 of 100 answers`,
    `${people.busy.toFixed(0)} ms`,
    `${(people.busy / people.quiet).toFixed(1)} × when nothing is scanned`,
    "≤ 100 ms",
  ],
  ["the last messages of a conversation of 50,000", `${people.opened.toFixed(0)} ms`, "", "≤ 300 ms"],
  [
    `scrolling one of ${talk.messages.toLocaleString("en")} for 5 s: frames over 34 ms`,
    `${(100 * talk.lateFrames).toFixed(1)} %`,
    "",
    "≤ 5 %",
  ],
  [
    `what an unknown messenger of ${proposed.mebibytes.toFixed(0)} MiB means, once its rows are read`,
    `${proposed.seconds.toFixed(1)} s`,
    `${(proposed.seconds / proposed.rows).toFixed(2)} × reading its rows`,
    "≤ 3 s",
  ],
  [
    `memory held by page and index, with ${people.finds.toLocaleString("en")} finds and ${people.records.toLocaleString("en")} records, ${people.messages.toLocaleString("en")} with text`,
    `${people.heldMiB.toFixed(0)} MiB`,
    "",
    "≤ 450",
  ],
  [
    `first rows of a table of ${tables.rows.toLocaleString("en")}, whose scan is done`,
    `${median(tables.first).toFixed(0)} ms`,
    `${median(tables.first.map((time, round) => time / tables.read[round])).toFixed(2)} × reading its file`,
    "≤ 500 ms",
  ],
  [
    `a film of 1 GiB in ${FILM_PIECES.toLocaleString("en")} pieces: to its last second`,
    `${median(films.map(({ seekMs }) => seekMs)).toFixed(0)} ms`,
    `${((100 * median(films.map(({ bytesRead }) => bytesRead))) / statSync(film).size).toFixed(1)} % of it read`,
    "≤ 500 ms, ≤ 2 %",
  ],
  [
    `wall of ${MIXED_FILES.toLocaleString("en")} mixed files: first screen of what browsers decode`,
    `${(mixed.fastMs / 1000).toFixed(1)} s`,
    "",
    "≤ 1.5 s",
  ],
  ["first screen of HEIC, TIFF, PDF and films", `${(mixed.slowMs / 1000).toFixed(1)} s`, "", "≤ 6 s"],
  ["5 s of scrolling: frames over 34 ms", `${(100 * mixed.lateFrames).toFixed(1)} %`, "", "≤ 5 %"],
  ["peak memory, renderer, all of that", `${mixed.peakMiB.toFixed(0)} MiB`, "", "≤ 450"],
  [
    "planted pictures found whole",
    `${node[0].scan.whole} of ${PLANTED} in Node`,
    `${browser.rounds[0].whole} of ${PLANTED} in Chromium`,
    "all",
  ],
];
const table = [
  "| what | measured | as a ratio within the run | aim |",
  "|---|---|---|---|",
  ...rows.map((row) => `| ${row.join(" | ")} |`),
].join("\n");
say(table);
writeFileSync(
  RESULT,
  `# Benchmarks

\`npm run bench\` makes this table. A card image of 1 GiB (FAT32, clusters of 8 KiB; free space of 50 % noise, 25 % zeros,
25 % text; ${PLANTED} erased pictures in it) is scanned deep, with a warm cache, ${ROUNDS} times in turn with what it is held against;
medians. Chromium is started directly with a real profile; a worker reads the file in slices. The quick scan is of a sparse
file of 16 GiB with an ext4 volume by mkfs.ext4, files erased by debugfs, which also lists it in turn. Pulls: a practice phone in a
process of its own, our client and the stock adb program in turn, adb's output to a file of a temporary folder or to nowhere. The film and the wall are looked at in the built application,
driven over Chromium's debugging pipe; bytes read are those of all its processes, sockets among them. Figures of different runs and
machines are not to be compared, the ratios are.

Last run: ${new Date().toISOString().slice(0, 10)}, ${cpus().length} cores (${cpus()[0].model}), Node ${process.versions.node}.

${table}
`,
);
