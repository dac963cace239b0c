import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { type Browser, chromium, expect, type Page, test } from "@playwright/test";
import { faultySource } from "../core/bytes/faulty-source.ts";
import { memorySource } from "../core/bytes/memory-source.ts";
import type { Find } from "../core/finds/find.ts";
import { databaseCard } from "../test/break-media.ts";
import { live, NEVER, nothingKept, seen } from "../test/breaks.ts";

/** Milliseconds that each reading takes: so slow that a scan can be killed in each of its passes, again and again. */
const DELAY_MS = process.env.JUBAR_LONG === undefined ? 22 : 60;
const PORT = 47_318;
const folder = mkdtempSync(join(tmpdir(), "jubar-kills-"));
let server: ChildProcess;
const { bytes: card, dead } = databaseCard(process.env.JUBAR_LONG === undefined ? 0 : 3);

test.beforeAll(async () => {
  writeFileSync(join(folder, "card.img.gz"), gzipSync(card, { level: 1 }));
  writeFileSync(join(folder, "phone.ab.gz"), readFileSync("demo/theatre-phone.ab.gz"));
  const slow = { start: 0, length: card.length, behaviour: "slow", delayMs: DELAY_MS };
  const ticket = { customer: "Ana Dorin", device: "Corvane Siskin 3", wants: "messages of May" };
  const media = [
    { id: "card", name: "card.img", packed: "card.img.gz", note: "slow", faults: [slow, ...dead], ticket },
    { id: "phone", name: "phone.ab", packed: "phone.ab.gz", note: "a backup", ticket: null },
  ];
  writeFileSync(join(folder, "media.json"), JSON.stringify(media));
  server = spawn(process.execPath, [
    "--import",
    "tsx",
    "server/main.ts",
    "--port",
    String(PORT),
    "--media",
    join(folder, "media.json"),
    "--practice",
  ]);
  await new Promise((ready) => server.stdout?.once("data", ready));
});
test.afterAll(() => {
  server.kill();
  rmSync(folder, { recursive: true, force: true });
});

/** A browser of its own, with a profile on the disk, that can be killed as a power cut kills it. */
class Mortal {
  readonly profile = mkdtempSync(join(folder, "profile-"));
  #process: ChildProcess | null = null;
  #browser: Browser | null = null;

  async open(address: string): Promise<Page> {
    const args = [
      "--headless=new",
      "--no-sandbox",
      `--user-data-dir=${this.profile}`,
      "--remote-debugging-port=0",
      "--disable-background-networking",
      "--disable-sync",
    ];
    const process = spawn("/usr/bin/chromium", [...args, "about:blank"], { detached: true, stdio: ["ignore", "ignore", "pipe"] });
    this.#process = process;
    const endpoint = await new Promise<string>((found) => {
      let told = "";
      process.stderr?.on("data", (piece: Buffer) => {
        told += piece;
        const [, address = null] = /DevTools listening on (ws:\S+)/.exec(told) ?? [];
        if (address) found(address);
      });
    });
    this.#browser = await chromium.connectOverCDP(endpoint);
    const [context] = this.#browser.contexts();
    const page = context.pages()[0] ?? (await context.newPage());
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(address);
    return page;
  }

  async kill(): Promise<void> {
    const { pid } = this.#process ?? {};
    const over = new Promise((done) => this.#process?.once("exit", done));
    if (pid) global.process.kill(-pid, "SIGKILL");
    await over;
    await this.#browser?.close().catch(() => undefined);
  }

  /** Kills what draws and works for the pages; the browser itself stays. */
  async killRenderers(address: string): Promise<Page> {
    const lines = execFileSync("ps", ["-eo", "pid,args"]).toString().split("\n");
    for (const line of lines)
      if (line.includes("--type=renderer") && line.includes(this.profile)) global.process.kill(Number.parseInt(line, 10), "SIGKILL");
    const [context] = this.#browser?.contexts() ?? [];
    // The one that stood by for the next page was killed too.
    const page = await context.newPage().catch(() => context.newPage());
    await page.goto(address);
    return page;
  }
}

interface KeptMedium {
  readonly id: number;
  readonly name: string;
  readonly scan: {
    readonly status: string;
    readonly seconds: number;
    readonly rows: { present: number; erased: number };
    readonly counts: Record<string, Record<string, number>>;
    readonly checkpoint: { readonly pass: string; readonly at: number; readonly told: number; readonly sweep: { readonly done: number } };
  };
}
/** What stands in the browser's database now. */
const kept = (page: Page, table: "media" | "packs"): Promise<unknown[]> =>
  page.evaluate(
    (name) =>
      new Promise<unknown[]>((done) => {
        const opening = indexedDB.open("jubar");
        opening.onsuccess = () => {
          const asked = opening.result.transaction(name).objectStore(name).getAll();
          asked.onsuccess = () => {
            opening.result.close();
            done(asked.result);
          };
        };
      }),
    table,
  );
const cardOf = async (page: Page): Promise<KeptMedium> => {
  const media = (await kept(page, "media")) as KeptMedium[];
  const found = media.find(({ name }) => name === "card.img");
  if (!found) throw new Error("the card is not in the ticket");
  return found;
};
/** How far a scan is, as a number that only grows while it is in one pass. */
const farness = ({ scan: { checkpoint } }: KeptMedium): number => checkpoint.at * 1e6 + checkpoint.told + checkpoint.sweep.done;

const OFTEN = ["listing", "listing", "listing", "listing", "sweep", "sweep", "sweep", "databases", "databases", "databases", "databases"];
for (const [words, passes, details] of [
  ["three times", ["listing", "sweep", "databases"], {}],
  ["twelve times, four of them in the listing and four among the databases", [...OFTEN, "again"], { tag: "@long" }],
] as const)
  test(`killed ${words}: nothing is lost, nothing is doubled`, details, () => killed(passes));

/** Kills a scan once in each of these passes, the browser and what works for its pages in turn. "again": in another scan, when the first one is done. */
async function killed(passes: readonly string[]): Promise<void> {
  test.setTimeout(400_000);
  const unbroken = await live(
    faultySource(memorySource(card, "card.img"), dead, async () => {}),
    { depth: "deep", kinds: null },
    nothingKept({ depth: "deep", kinds: null }),
    NEVER,
  );
  const mortal = new Mortal();
  const bench = `http://127.0.0.1:${PORT}/`;
  let page = await mortal.open(bench);
  await page.getByRole("article").filter({ hasText: "card.img" }).getByRole("button").click();
  await page.waitForURL(/\/ticket\/\d+\/scan/);
  const ticket = page.url();
  const kills: string[] = [];
  let last = { pass: "", far: -1 };
  await page.getByRole("button", { name: "Start the scan" }).click();
  for (const wanted of passes) {
    const pass = wanted === "again" ? "sweep" : wanted;
    if (wanted === "again") {
      await expect.poll(async () => (await cardOf(page)).scan.status, { timeout: 60_000 }).toBe("done");
      await page.getByRole("button", { name: "Scan again" }).click();
    }
    const before = last;
    await expect
      .poll(
        async () => {
          const now = await cardOf(page);
          const here = now.scan.status === "running" && now.scan.checkpoint.pass === pass;
          if (here && (before.pass !== pass || farness(now) > before.far)) last = { pass, far: farness(now) };
          return last !== before ? pass : `${now.scan.status} in ${now.scan.checkpoint.pass}`;
        },
        { timeout: 60_000, intervals: [40] },
      )
      .toBe(pass);
    if (kills.length % 2 === 0) {
      await mortal.kill();
      page = await mortal.open(ticket);
      kills.push(`browser in ${pass}`);
    } else {
      page = await mortal.killRenderers(ticket);
      kills.push(`renderer in ${pass}`);
    }
  }
  await expect.poll(async () => (await cardOf(page)).scan.status, { timeout: 90_000 }).toBe("done");
  expect(kills.length).toBe(passes.length);
  const { id, scan } = await cardOf(page);
  const packs = (await kept(page, "packs")) as { medium: number; finds: Find[]; hidden: number[] }[];
  const finds = packs
    .filter(({ medium }) => medium === id)
    .flatMap((pack) => pack.finds.filter((_, position) => !pack.hidden.includes(position)));
  expect(finds.length).toBe(unbroken.kept.finds.size - unbroken.kept.besides.size);
  const wanted = seen(unbroken.kept);
  const got = seen({ ...unbroken.kept, finds: new Map(finds.map((find) => [find.id, find])) });
  expect(got.finds).toEqual(wanted.finds);
  const erased = unbroken.kept.records.filter(({ state }) => state === "erased").length;
  expect(scan.rows).toEqual({ present: unbroken.kept.records.length - erased, erased });
  expect(Object.values(scan.counts).reduce((sum, states) => sum + Object.values(states).reduce((a, b) => a + b, 0), 0)).toBe(finds.length);
  await mortal.kill();
  rmSync(mortal.profile, { recursive: true, force: true });
}
