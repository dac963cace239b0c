import { execFileSync } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import { cpus } from "node:os";
import { extname, join, resolve } from "node:path";
import { build } from "vite";
import { z } from "zod";
import { CARD_BYTES, cardImage, PLANTED } from "./card-image.ts";
import { PlainChromium } from "./chromium.ts";

const ROUNDS = 3;
const CACHE = "bench/cache";
const RESULT = "docs/BENCHMARKS.md";
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

async function inChromium() {
  const page = join(CACHE, "page");
  await build({
    root: "bench/page",
    configFile: false,
    logLevel: "error",
    worker: { format: "es" },
    build: { outDir: resolve(page), emptyOutDir: true, target: "es2023" },
  });
  const types: Record<string, string> = { ".html": "text/html", ".js": "text/javascript" };
  let tell: (text: string) => void = () => {};
  const posted = new Promise<string>((done) => {
    tell = done;
  });
  const server = createServer(async (request, response) => {
    if (request.method === "POST") {
      const parts: Buffer[] = [];
      for await (const part of request) parts.push(part);
      response.end();
      tell(Buffer.concat(parts).toString());
      return;
    }
    const path = join(page, new URL(request.url ?? "/", "http://x").pathname.replace(/\/$/, "/index.html"));
    try {
      response.setHeader("Content-Type", types[extname(path)] ?? "application/octet-stream").end(readFileSync(path));
    } catch {
      response.writeHead(404).end();
    }
  });
  await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready));
  const address = server.address();
  const chromium = new PlainChromium();
  try {
    await chromium.open(`http://127.0.0.1:${typeof address === "object" && address ? address.port : 0}/`);
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
const browser = await inChromium();
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
  ["peak memory, Node", `${Math.max(...node.map(({ scan }) => scan.peakMiB)).toFixed(0)} MiB`, "", "≤ 250"],
  ["peak memory, renderer", `${browser.peakMiB.toFixed(0)} MiB`, "", "≤ 450"],
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
medians. Chromium is started directly with a real profile; a worker reads the file in slices. Figures of different runs and
machines are not to be compared, the ratios are.

Last run: ${new Date().toISOString().slice(0, 10)}, ${cpus().length} cores (${cpus()[0].model}), Node ${process.versions.node}.

${table}
`,
);
