import { readFileSync } from "node:fs";
import { join } from "node:path";
import { gunzipSync } from "node:zlib";
import type { Page } from "@playwright/test";
import { memorySource } from "../core/bytes/memory-source.ts";
import { hashOf, practiceBytes, scanned } from "../test/scanning.ts";
import { Bench, expect, test } from "./bench.ts";

/** Finds of the practice card, and of the same card after a quick format. */
const ALL = 73;
const packed = (name: string): Uint8Array => new Uint8Array(gunzipSync(readFileSync(join("demo", `${name}.gz`))));
const medium = (page: Page, name: string | RegExp) =>
  page.getByRole("list", { name: "Media of this ticket" }).getByRole("button", { name });
async function addMedium(bench: Bench, file: string): Promise<void> {
  await bench.page.getByRole("button", { name: "Add a medium" }).click();
  await bench.page.getByLabel("Disk image").setInputFiles(file);
}

test("a ticket with a card, a formatted one and a backup: each scanned, found together, told apart, handed over from all", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.answerFolderPicker();
  await bench.startPracticeJob();
  await bench.scan();
  await addMedium(bench, bench.file("wagon-card.img", packed("formatted-card.img")));
  await expect(medium(page, /wagon-card\.img/)).toHaveAttribute("aria-pressed", "true");
  await bench.scan();
  await addMedium(bench, bench.file("theatre-phone.ab", packed("theatre-phone.ab")));
  await expect(medium(page, /theatre-phone\.ab backup/)).toBeVisible();
  await bench.scan();
  const strip = page.getByRole("navigation", { name: "Stations" });
  await expect(strip).toContainText("3 of 3 done");
  await bench.goTo("Finds");
  await bench.showEverything();
  // The same pictures lie on both cards: shown once, by their content.
  await expect.poll(() => bench.shown()).toBeLessThan(100);
  const both = await bench.shown();
  await bench.chip("wagon-card").click();
  await expect.poll(() => bench.shown()).toBe(ALL);
  await bench.finds.filter({ hasText: "2 places" }).first().click();
  const elsewhere = page.getByRole("list", { name: "The same elsewhere" });
  await expect(elsewhere).toContainText(/theatre-card\.img: .+, present/);
  await page.keyboard.press("Space");
  await page.getByRole("button", { name: "Show all" }).click();
  await bench.narrow("theatre-card");
  await bench.finds.nth(3).click();
  await page.keyboard.press("Space");
  await page.getByRole("button", { name: "Show all" }).click();
  await bench.narrow("databases");
  await bench.finds.first().click();
  await page.keyboard.press("Space");
  await expect(bench.tray()).toContainText("3 chosen");
  await bench.goTo("Hand-over");
  await page.getByRole("button", { name: "Choose the folder and write" }).click();
  await expect(page.getByRole("region", { name: "Proof" })).toContainText("3 of 3 files arrived intact");
  const given = await bench.givenBack();
  const summary = [...given].find(([path]) => path.endsWith("summary.html"))?.[1].toString() ?? "";
  for (const name of ["theatre-card.img", "wagon-card.img", "theatre-phone.ab"]) expect(summary).toContain(name);
  const photos = [...given].filter(([path]) => path.includes("/photos/"));
  const { finds } = await scanned(memorySource(practiceBytes(), "card"));
  const known = new Set([...finds.values()].map(({ sha256 }) => sha256));
  expect(photos.length).toBe(2);
  for (const [path, content] of photos) expect(known.has(hashOf(content)), path).toBe(true);

  // Set aside its finds are not shown; taken out they are gone, and the rest stays.
  await bench.goTo("Copy & scan");
  await medium(page, /wagon-card/).click();
  await page.getByRole("button", { name: "Set aside" }).click();
  await expect(page.getByRole("region", { name: "Set aside" })).toContainText("Nothing of it is lost");
  await bench.goTo("Finds");
  await expect.poll(() => bench.shown()).toBeLessThan(both);
  await bench.goTo("Copy & scan");
  await page.getByRole("button", { name: "Take it up again" }).click();
  await page.getByRole("button", { name: "Take wagon-card.img out of this ticket" }).click();
  await page.getByRole("dialog").getByRole("button", { name: "Take it out" }).click();
  await expect(medium(page, /wagon-card/)).toHaveCount(0);
  await page.reload();
  await expect(strip).toContainText("2 of 2 done");
  await expect(medium(page, /theatre-card/)).toBeVisible();
});

test("a worn card in the practice reader: every place asked for a bounded number of times, known after a reload, and no preview waits for ever", {
  tag: "@long",
}, async ({ bench }) => {
  const { page } = bench;
  /** How often each sector was asked for, in the page's whole life: by whatever worker. */
  const asked = new Map<number, number>();
  page.context().on("request", (request) => {
    const range = request.url().endsWith("/media/worn-card") ? /bytes=(\d+)-(\d+)/.exec(request.headers().range ?? "") : null;
    if (!range) return;
    for (const dead of [3_355_648, 10_310_144, 10_310_656, 20_619_776])
      if (Number(range[1]) < dead + 512 && Number(range[2]) >= dead) asked.set(dead, (asked.get(dead) ?? 0) + 1);
  });
  await bench.open();
  await page.getByRole("article").filter({ hasText: "worn-card.img" }).getByRole("button").click();
  await bench.scan();
  await expect(bench.progress).toContainText(/unreadable: 2(\.0)? KB in 3 places/);
  await bench.goTo("Finds");
  await bench.showEverything();
  await expect.poll(() => bench.shown()).toBeGreaterThanOrEqual(ALL);
  await bench.chip("damaged").click();
  const hurt = bench.finds.filter({ has: page.getByRole("img") });
  await expect(hurt.first()).toBeVisible();
  await expect(page.locator(".animate-pulse")).toHaveCount(0);
  // A dead place lies in one of those that the card is known by: it is not refused for it.
  await page.reload();
  await expect(page.getByRole("status", { name: "Storage" })).toHaveCount(0);
  await bench.goTo("Copy & scan");
  await expect(bench.progress).toContainText(/unreadable: 2(\.0)? KB in 3 places/);
  await expect(page.getByRole("button", { name: "Scan again" })).toBeEnabled();
  await page.getByRole("button", { name: "Scan again" }).click();
  await expect(bench.progress).toContainText("done in", { timeout: 60_000 });
  await bench.goTo("Finds");
  await bench.chip("damaged").click();
  await bench.finds.first().dblclick();
  await expect(page.getByRole("dialog").getByRole("img")).toBeVisible();
  expect(asked.size).toBe(4);
  for (const [place, times] of asked) expect(times, `sector at ${place}`).toBeLessThanOrEqual(8);
});

test("a second tab watches the scan of the first, filters what is found, and takes it over", async ({ bench }) => {
  const { page } = bench;
  await bench.open();
  await page.getByRole("article").filter({ hasText: "worn-card.img" }).getByRole("button").click();
  await page.getByRole("button", { name: "Start the scan" }).click();
  await expect.poll(() => page.getByRole("navigation", { name: "Stations" }).textContent(), { intervals: [30] }).toMatch(/Finds[1-9]/);
  await page.getByRole("button", { name: "Pause" }).click();
  await expect(page.getByRole("button", { name: "Go on" })).toBeVisible();
  const second = await page.context().newPage();
  const other = new Bench(second, bench.folder);
  await second.goto(page.url());
  await expect(second.getByText("Another tab scans this medium. Here you watch.")).toBeVisible();
  await expect(second.getByRole("button", { name: "Go on" })).toHaveCount(0);
  const found = Number((await second.getByRole("navigation", { name: "Stations" }).textContent())?.match(/Finds(\d+)/)?.[1]);
  expect(found).toBeGreaterThan(0);
  await second.getByRole("button", { name: "Take it over" }).click();
  await expect(other.progress).toContainText("done in", { timeout: 60_000 });
  await other.goTo("Finds");
  await other.showEverything();
  await expect.poll(() => other.shown()).toBeGreaterThanOrEqual(ALL);
  // The first one has lost it, and says nothing else than what is so.
  await expect(bench.progress).toContainText("done in");
  await bench.goTo("Finds");
  await bench.showEverything();
  const passing = await other.shown();
  await expect.poll(() => bench.shown()).toBe(passing);
  await second.close();
});

test("a ticket that is forgotten while its scan runs leaves nothing in the browser", async ({ bench }) => {
  const { page } = bench;
  await bench.open();
  await page.getByRole("article").filter({ hasText: "worn-card.img" }).getByRole("button").click();
  await page.getByRole("button", { name: "Start the scan" }).click();
  await expect(page.getByRole("navigation", { name: "Stations" })).toContainText(/Finds[1-9]/);
  await page.getByRole("link", { name: "To the bench" }).click();
  await page.getByRole("button", { name: /^Remove ticket/ }).click();
  await page.getByRole("dialog").getByRole("button", { name: "Forget it" }).click();
  await expect(page.getByText("No open job. Begin with a new ticket")).toBeVisible();
  await page.waitForTimeout(1500);
  const left = await page.evaluate(async () => {
    const opening = indexedDB.open("jubar");
    const kept = await new Promise<IDBDatabase>((done) => {
      opening.onsuccess = () => done(opening.result);
    });
    const counts: Record<string, number> = {};
    for (const name of ["jobs", "media", "packs", "places", "hashes", "parts"]) {
      const asked = kept.transaction(name).objectStore(name).count();
      counts[name] = await new Promise((done) => {
        asked.onsuccess = () => done(asked.result);
      });
    }
    return counts;
  });
  expect(left).toEqual({ jobs: 0, media: 0, packs: 0, places: 0, hashes: 0, parts: 0 });
});
