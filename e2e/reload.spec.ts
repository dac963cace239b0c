import { truncateSync } from "node:fs";
import type { Page } from "@playwright/test";
import { expect, test } from "./bench.ts";

/** The practice card on a medium so large that its scan can be interrupted: empty space behind the volume. */
const LARGE = 700_000_000;
/** Finds of the whole card. */
const ALL = "73";

/** Byte up to which the sweep was kept in the browser's database; 0 before it begins. */
const keptAt = (page: Page): Promise<number> =>
  page.evaluate(
    () =>
      new Promise<number>((done) => {
        const opening = indexedDB.open("jubar");
        opening.onsuccess = () => {
          const asked = opening.result.transaction("media").objectStore("media").getAll();
          asked.onsuccess = () => {
            opening.result.close();
            const { pass, at } = asked.result[0]?.scan.checkpoint ?? { pass: "listing", at: 0 };
            done(pass === "listing" ? 0 : pass === "sweep" ? at : Number.MAX_SAFE_INTEGER);
          };
        };
      }),
  );

test("a reload in mid-scan goes on by itself from the checkpoint, with the file opened again by its handle", async ({ bench }) => {
  const { page } = bench;
  await bench.open();
  const card = bench.card();
  truncateSync(card, LARGE);
  await bench.drop(card);
  await page.getByRole("button", { name: "Start the scan" }).click();
  await expect.poll(() => keptAt(page), { intervals: [50] }).toBeGreaterThan(60_000_000);
  const before = await keptAt(page);
  await page.reload();
  // Nothing is asked for, and nothing starts anew: what is kept only grows.
  await expect(bench.progress).toContainText(/\d %/);
  expect(await keptAt(page)).toBeGreaterThanOrEqual(before);
  await expect(page.getByRole("region", { name: "Storage" })).toHaveCount(0);
  await expect(bench.progress).toContainText("done in", { timeout: 60_000 });
  await bench.goTo("Finds");
  await expect.poll(() => bench.shown()).toBe(Number(ALL));
});

test("pause and stop keep everything; without a handle the same file is asked for, and another one refused", async ({ bench }) => {
  const { page } = bench;
  await bench.open();
  const card = bench.card();
  truncateSync(card, LARGE);
  await bench.choose(card);
  await page.getByRole("button", { name: "Start the scan" }).click();
  const strip = page.getByRole("navigation", { name: "Stations" });
  await expect.poll(() => strip.textContent(), { intervals: [50] }).toMatch(/Finds[1-9]/);
  await page.getByRole("button", { name: "Pause" }).click();
  await expect(strip).toContainText(/paused at \d+ %/);
  const [paused] = (await strip.textContent())?.match(/paused at \d+ %/) ?? [""];
  await bench.goTo("Finds");
  await bench.finds.first().click();
  await page.keyboard.press("Space");
  await expect(bench.tray()).toContainText("1 chosen");

  await page.reload();
  const notice = page.getByRole("status").filter({ hasText: "Choose theatre-card.img (700 MB) again to go on" });
  await expect(notice).toBeVisible();
  // What was found and chosen is there without the file.
  await expect(bench.tray()).toContainText("1 chosen");
  await expect(strip).toContainText(paused);
  await page.getByLabel("The same file again").setInputFiles(bench.file("other.img", new Uint8Array(100_000)));
  await expect(notice).toContainText("This is not the storage of this ticket");
  await page.getByLabel("The same file again").setInputFiles(card);
  await expect(notice).toHaveCount(0);
  await bench.goTo("Copy & scan");
  await page.getByRole("button", { name: "Go on" }).click();
  await expect(bench.progress).toContainText("done in", { timeout: 60_000 });
  await bench.goTo("Finds");
  await expect.poll(() => bench.shown()).toBe(Number(ALL));
  await expect(bench.tray()).toContainText("1 chosen");
});
