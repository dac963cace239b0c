import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gunzipSync, gzipSync } from "node:zlib";
import { expect, type Page, type Response, test } from "@playwright/test";
import { faultySource } from "../core/bytes/faulty-source.ts";
import { memorySource } from "../core/bytes/memory-source.ts";
import type { ByteSource } from "../core/bytes/source.ts";
import { EVERYTHING_THERE } from "../core/scan/scope.ts";
import { SHIPPED } from "../core/stores/mapping/shipped.ts";
import { databaseCard } from "../test/break-media.ts";
import { live, NEVER, nothingKept, seen } from "../test/breaks.ts";
import { hashOf } from "../test/scanning.ts";
import { Bench } from "./bench.ts";
import { type KeptMedium, type KeptPart, kept, keptFinds, keptPeople, storedFile } from "./browser-memory.ts";
import { Kit, PhoneTicket } from "./kit.ts";
import { Mortal } from "./mortal.ts";

const IS_LONG = process.env.JUBAR_LONG !== undefined;
/** Milliseconds that each reading of the card takes: so slow that its scan can be killed in each of its passes, again and again. */
const DELAY_MS = IS_LONG ? 40 : 22;
/** Seconds of work that a kill may cost. */
const MOST_DONE_AGAIN = 5;
const PORT = 27_318;
const DEEP = { depth: "deep", ...EVERYTHING_THERE, mappings: SHIPPED } as const;
const ORDER = ["listing", "sweep", "archives", "databases", "reconcile", "done"];
const folder = mkdtempSync(join(tmpdir(), "jubar-kills-"));
let server: ChildProcess;
const { bytes: card, dead } = databaseCard(IS_LONG ? 3 : 0);

test.beforeAll(async () => {
  writeFileSync(join(folder, "card.img.gz"), gzipSync(card, { level: 1 }));
  writeFileSync(join(folder, "phone.ab"), gunzipSync(readFileSync("demo/theatre-phone.ab.gz")));
  const slow = { start: 0, length: card.length, behaviour: "slow", delayMs: DELAY_MS };
  const ticket = { customer: "Ana Dorin", device: "Corvane Siskin 3", wants: "messages of May" };
  const media = [{ id: "card", name: "card.img", packed: "card.img.gz", note: "slow", faults: [slow, ...dead], ticket }];
  writeFileSync(join(folder, "media.json"), JSON.stringify(media));
  const options = ["--port", String(PORT), "--media", join(folder, "media.json"), "--practice"];
  server = spawn(process.execPath, ["--import", "tsx", "server/main.ts", ...options]);
  await new Promise((ready) => server.stdout?.once("data", ready));
});
test.afterAll(() => {
  server.kill();
  rmSync(folder, { recursive: true, force: true });
});

/** Where a scan was at a moment, as it told everybody. */
interface Heard {
  readonly at: number;
  readonly medium: number;
  readonly status: string;
  readonly pass: string;
  readonly done: number;
}
/** Writes down, in each page, what the scans tell. */
function listen(): void {
  const heard: Heard[] = [];
  Object.assign(window, { heard });
  new BroadcastChannel("jubar").addEventListener("message", ({ data }) => {
    if (data.type !== "news") return;
    const { status, progress } = data.news.scan;
    heard.push({ at: Date.now(), medium: data.medium, status, ...progress });
  });
}
const heardOf = async (page: Page, medium: number): Promise<Heard[]> => {
  const all = await page.evaluate(() => (window as unknown as { heard: Heard[] }).heard);
  return all.filter((one) => one.medium === medium && one.status === "running");
};
const isFurther = (one: Heard, other: Heard): boolean => {
  const ahead = ORDER.indexOf(one.pass) - ORDER.indexOf(other.pass);
  return ahead > 0 || (ahead === 0 && one.done > other.done);
};

const OFTEN = ["listing", "listing", "listing", "listing", "sweep", "sweep", "databases", "databases", "databases", "databases"] as const;
type Killed = (typeof OFTEN)[number] | "copy" | "again";
for (const [words, whens] of [
  ["three times", ["copy", "sweep", "databases"]],
  ["twelve times, four of them in the listing and four among the databases", ["copy", ...OFTEN, "again"]],
] as const)
  test(`a phone's copy, its card and a backup, killed ${words}: nothing is lost, nothing is doubled`, { tag: "@long" }, () =>
    killed(whens),
  );

/** Which sectors of the card were ever read, and when, in this life of the page, the first one was that never had been. */
class ReadSectors {
  readonly #read = new Uint8Array(card.length / 512);
  firstNew: number | null = null;

  readonly hear = (response: Response): void => {
    if (response.status() !== 206 || !response.url().endsWith("/media/card")) return;
    const [, first, last] = /bytes=(\d+)-(\d+)/.exec(response.request().headers().range ?? "") ?? [];
    for (let sector = Math.floor(Number(first) / 512); sector <= Math.floor(Number(last) / 512); sector++) {
      if (this.#read[sector] === 0) this.firstNew ??= Date.now();
      this.#read[sector] = 1;
    }
  };
}

/** One ticket, and the browser that it is open in: which is killed, and opened again. */
class Victim {
  readonly sectors = new ReadSectors();
  readonly #mortal = new Mortal(folder, listen, this.sectors.hear);
  #page: Page | null = null;
  #ticket = `http://127.0.0.1:${PORT}/`;
  kills = 0;

  get page(): Page {
    if (!this.#page) throw new Error("nothing is open");
    return this.#page;
  }
  get bench(): Bench {
    return new Bench(this.page, folder);
  }
  get phone(): PhoneTicket {
    return new PhoneTicket(this.bench);
  }
  get kit(): Kit {
    return new Kit(this.page);
  }

  async open(): Promise<void> {
    this.#page = await this.#mortal.open(this.#ticket);
  }

  async beginTicket(): Promise<void> {
    await this.page.getByRole("article").filter({ hasText: "card.img" }).getByRole("button").click();
    await this.page.waitForURL(/\/ticket\/\d+\/scan/);
    this.#ticket = this.page.url();
  }

  /** The browser and what works for its pages in turn. */
  async kill(): Promise<void> {
    const isWhole = this.kills++ % 2 === 0;
    if (isWhole) await this.#mortal.kill();
    else this.#mortal.killRenderers();
    this.sectors.firstNew = null;
    if (isWhole) await this.open();
    else this.#page = await this.#mortal.openAgain(this.#ticket);
  }

  async medium(name: RegExp): Promise<KeptMedium> {
    const found = (await kept(this.page, "media")).find((medium) => name.test(medium.name));
    if (!found) throw new Error(`${name.source} is not in the ticket`);
    return found;
  }

  async part(): Promise<KeptPart> {
    const [part] = await kept(this.page, "parts");
    if (!part) throw new Error("no part of a phone is in the ticket");
    return part;
  }

  show = (name: RegExp): Promise<void> =>
    this.page.getByRole("list", { name: "Media of this ticket" }).getByRole("button", { name }).click();

  /** Begins scans that are new, and those that are done anew. When this is over they run. */
  async scan(...names: readonly RegExp[]): Promise<void> {
    for (const name of names) {
      await this.show(name);
      const begin = this.page.getByRole("button", { name: /^(Start the scan|Scan again)$/ });
      if (await begin.isVisible()) await begin.click();
    }
    for (const name of names) await expect.poll(async () => (await this.heard(name)).length, { intervals: [20] }).toBeGreaterThan(0);
  }

  /** Where a scan was in the life of this page. */
  heard = async (name: RegExp): Promise<Heard[]> => heardOf(this.page, (await this.medium(name)).id);

  isDone = (name: RegExp): Promise<void> =>
    expect.poll(async () => (await this.medium(name)).scan.status, { timeout: 90_000 }).toBe("done");

  bury = (): Promise<void> => this.#mortal.bury();
}

const CARD = /card\.img/;
const COPY = /shared storage/;
const BACKUP = /phone\.ab/;

/** Takes the phone into the ticket, and copies its shared storage. Its cable slips out in the middle; there, and when it goes on, the browser is killed. */
async function copyThePhone(victim: Victim, isKilled: boolean): Promise<void> {
  const loose = "siskin-loose";
  await victim.bench.goTo("Intake");
  await victim.page.getByRole("group", { name: "Locked?" }).getByRole("button", { name: "open", exact: true }).click();
  await victim.bench.goTo("Ways in");
  await victim.kit.take(loose);
  await victim.kit.does("Plug the cable in");
  await victim.phone.takeIn();
  await victim.kit.tap("Allow");
  await expect(victim.phone.state).toHaveText("Ready");
  await victim.kit.does("Charge an hour");
  await victim.bench.goTo("Copy & scan");
  await victim.page.getByRole("button", { name: "Add a medium" }).click();
  const { fromPhone } = victim.phone;
  await fromPhone.getByRole("button", { name: "Take its shared storage" }).click();
  await fromPhone.getByRole("button", { name: "Copy it, then scan", exact: true }).click();
  await expect.poll(async () => (await victim.part()).status).toBe("failed");
  const { mark, size } = await victim.part();
  expect(mark.done).toBeGreaterThan(0);
  expect(mark.done).toBeLessThan(size);
  if (isKilled) await victim.kill();
  expect((await victim.part()).mark.done).toBe(mark.done);
  await victim.bench.goTo("Copy & scan");
  await victim.show(COPY);
  await victim.kit.show(loose);
  await victim.kit.does("Plug the cable in");
  await victim.phone.fromPhone.getByRole("button", { name: "Go on copying" }).click();
  await expect.poll(async () => (await victim.part()).status).toBe("done");
  await victim.isDone(COPY);
}

async function killed(whens: readonly Killed[]): Promise<void> {
  test.setTimeout(500_000);
  const victim = new Victim();
  try {
    await killedAsOften(victim, whens);
  } finally {
    await victim.bury();
  }
}

async function killedAsOften(victim: Victim, whens: readonly Killed[]): Promise<void> {
  await victim.open();
  await victim.beginTicket();
  await copyThePhone(victim, whens.includes("copy"));
  await victim.page.getByRole("button", { name: "Add a medium" }).click();
  await victim.bench.choose(join(folder, "phone.ab"));
  await expect(victim.page.getByRole("list", { name: "Media of this ticket" })).toContainText("phone.ab");
  await victim.scan(CARD);
  /** How far the card's scan was when it was killed last. */
  let reached: Heard | null = null;
  for (const when of whens.filter((one) => one !== "copy")) {
    if (when === "again") {
      await victim.isDone(CARD);
      await victim.scan(CARD);
      reached = null;
    }
    reached = await killedIn(victim, when === "again" ? "sweep" : when, reached);
    const again = await secondsDoneAgain(victim, reached);
    console.log(`killed in ${reached.pass} at ${Math.floor(reached.done)}: ${again.toFixed(1)} s done again`);
    // A clock says something only where nothing else runs on the machine.
    if (IS_LONG) expect(again).toBeLessThanOrEqual(MOST_DONE_AGAIN);
  }
  for (const name of [CARD, COPY, BACKUP]) await victim.isDone(name);
  expect(victim.kills).toBe(whens.length);
  const copy = await storedFile(victim.page, /^working-copy-/);
  expect((await victim.part()).sha256).toBe(hashOf(copy));
  const archive = await storedFile(victim.page, /\.tar$/);
  await isAsUnbroken(
    victim,
    CARD,
    faultySource(memorySource(card, "card.img"), dead, async () => {}),
  );
  await isAsUnbroken(victim, COPY, memorySource(copy, "copy"));
  await isAsUnbroken(victim, BACKUP, memorySource(archive, "archive"));
}

/** Kills while the card is in this pass, further than before, and while the two others are scanned too. @returns where the card was */
async function killedIn(victim: Victim, pass: string, before: Heard | null): Promise<Heard> {
  const isThere = async (): Promise<boolean> => {
    const now = (await victim.heard(CARD)).at(-1);
    return now?.pass === pass && (before?.pass !== pass || now.done > before.done);
  };
  await expect.poll(isThere, { timeout: 90_000, intervals: [40] }).toBe(true);
  await victim.scan(COPY, BACKUP);
  const at = (await victim.heard(CARD)).at(-1);
  expect(at?.pass).toBe(pass);
  await victim.kill();
  return at as Heard;
}

/**
 * Seconds from when the scan goes on until it does what it had not done before: what is worked out anew, and what is done again. It has come
 * to new things when it reads what nobody had read, or says that it is further.
 */
async function secondsDoneAgain(victim: Victim, reached: Heard): Promise<number> {
  const measured = async (): Promise<number | null> => {
    const [first, ...later] = await victim.heard(CARD);
    const isNew = victim.sectors.firstNew ?? later.find((one) => isFurther(one, reached))?.at;
    return first && isNew ? Math.max(0, isNew - first.at) / 1000 : null;
  };
  await expect.poll(measured, { timeout: 60_000, intervals: [20] }).not.toBeNull();
  return (await measured()) ?? Infinity;
}

/** Is what is kept of a medium what one scan finds that nobody broke? */
async function isAsUnbroken(victim: Victim, name: RegExp, source: ByteSource): Promise<void> {
  const unbroken = await live(source, DEEP, nothingKept(DEEP), NEVER);
  const { id, scan } = await victim.medium(name);
  const finds = await keptFinds(victim.page, id);
  expect(finds.length, name.source).toBe(unbroken.kept.finds.size - unbroken.kept.besides.size);
  const got = seen({ ...unbroken.kept, finds: new Map(finds.map((find) => [find.id, find])) });
  expect(got.finds, name.source).toEqual(seen(unbroken.kept).finds);
  // What people mean by rows is kept beside them, and counted as none.
  const rows = unbroken.kept.records.filter(({ store }) => store === undefined);
  const people = unbroken.kept.records.filter(({ kind, values }) => kind !== "row" && values);
  const erased = rows.filter(({ state }) => state === "erased").length;
  expect(scan.rows, name.source).toEqual({ present: rows.length - erased, erased });
  expect((await keptPeople(victim.page, id)).sort(), name.source).toEqual(people.map((entry) => entry.id).sort());
  const counted = Object.values(scan.counts).flatMap((states) => Object.values(states));
  expect(
    counted.reduce((sum, count) => sum + count, 0),
    name.source,
  ).toBe(finds.length);
}
