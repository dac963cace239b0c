import { readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { type Bench, expect, test } from "./bench.ts";

const search = (page: Page) => page.getByRole("textbox", { name: "Search names and folders" });
const viewer = (page: Page) => page.getByRole("dialog", { name: /, large$/ });
const player = (page: Page) => viewer(page).locator("video");
const state = (page: Page) =>
  player(page).evaluate((one: HTMLVideoElement) => ({ at: one.currentTime, length: one.duration, wide: one.videoWidth }));

/** The workshop's card, from the practice reader: the server gives it by range. */
async function startWithProps(bench: Bench): Promise<void> {
  const { page } = bench;
  await bench.open();
  const card = page.locator("article, section, li, div").filter({ hasText: /^Card in the practice readerread-only.*props-card\.img/ });
  await card.getByRole("button", { name: "Start a job with it" }).last().click();
  await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
  await bench.scan();
  await bench.goTo("Finds");
  await bench.showEverything();
}

async function look({ page, finds }: Bench, name: string): Promise<void> {
  await search(page).fill(name);
  await expect(finds.first()).toHaveAccessibleName(new RegExp(`^${name}`));
  await finds.first().dblclick();
  await expect(viewer(page)).toBeVisible();
}

test("a film of a served medium is played by range from where it lies; what was written is looked at and played from where it was written", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.answerFolderPicker();
  const ranges: string[] = [];
  page.on("request", (request) => {
    if (request.url().includes("/contents/")) ranges.push(request.headers().range ?? "none");
  });
  await startWithProps(bench);
  await look(bench, "rehearsal crocodile.mp4");
  await expect.poll(async () => (await state(page)).length).toBeCloseTo(9, 0);
  expect((await state(page)).wide).toBe(640);
  expect(await player(page).evaluate((one: HTMLVideoElement) => new URL(one.src).pathname)).toMatch(/^\/contents\//);
  expect(ranges).toContain("bytes=0-");
  await page.keyboard.press("Space");
  await page.keyboard.press("Escape");
  // A frame of it stands on the wall, though nothing of the card is a file here.
  await expect(bench.finds.first().locator("img")).toBeVisible();
  await search(page).fill("letter");
  await bench.finds.first().click();
  await page.keyboard.press("Space");
  await expect(bench.tray()).toContainText("2 chosen");

  await page.getByRole("link", { name: "Hand over" }).click();
  await page.getByRole("radio", { name: "for each format" }).check();
  await expect(page.getByText("├ mp4 1")).toBeVisible();
  await page.getByRole("button", { name: "Choose the folder and write" }).click();
  await expect(page.getByText("of 2 files arrived intact")).toBeVisible();
  await page.getByRole("button", { name: "Look at what was written" }).click();
  await expect(page.getByRole("region", { name: "What was written" })).toContainText("2 files in");
  await expect(bench.finds).toHaveCount(2);
  // The filters of before are not those of what was written, and nothing can be chosen there.
  await expect(search(page)).toHaveValue("");
  await page.getByRole("button", { name: "folders" }).click();
  await expect(page.getByRole("button", { name: "mp4" })).toBeVisible();
  await page.getByRole("button", { name: "folders" }).click();
  await look(bench, "rehearsal crocodile.mp4");
  await expect.poll(async () => (await state(page)).length).toBeCloseTo(9, 0);
  expect(await player(page).evaluate((one: HTMLVideoElement) => one.src)).toMatch(/^blob:/);
  await page.keyboard.press("k");
  await expect.poll(async () => (await state(page)).at).toBeGreaterThan(0.3);
  await expect(viewer(page).getByRole("button", { name: /tray/ })).toHaveCount(0);
  const { violations } = await new AxeBuilder({ page }).include("dialog").analyze();
  expect(violations.filter(({ impact }) => impact === "serious" || impact === "critical")).toEqual([]);
  await page.keyboard.press("Escape");

  await look(bench, "letter to the barn.txt");
  await expect(viewer(page)).toContainText("the barn is still wet");
  await page.keyboard.press("Escape");
  // It is really read from there: what is taken away there is not played from the card in its place.
  await page.evaluate(async () => {
    const given = await (await navigator.storage.getDirectory()).getDirectoryHandle("given back");
    for await (const folder of given.values()) await (folder as FileSystemDirectoryHandle).removeEntry("mp4", { recursive: true });
  });
  bench.provoked.push(/ERR_FILE_NOT_FOUND/);
  await look(bench, "rehearsal crocodile.mp4");
  await expect(viewer(page)).toContainText("This browser does not play it");
  await page.keyboard.press("Escape");

  await page.getByRole("button", { name: "Back to what was found" }).click();
  await expect(search(page)).toHaveValue("letter");
  await expect(bench.tray()).toContainText("2 chosen");
});

/** Where the pieces of a file lie, by the server's own image of the card. */
const card = gunzipSync(readFileSync("demo/props-card.img.gz"));
const placeOf = (bytes: Buffer | string): number => card.indexOf(bytes);

test("dead sectors in a film, a picture and a paper: each says so, shows what is left, and hurts nothing beside it", async ({ bench }) => {
  const { page } = bench;
  const bitmap = placeOf(Buffer.from("BM6"));
  const film = placeOf("ftypisom") - 4;
  const paper = placeOf("%PDF-1.7");
  for (const place of [bitmap, film, paper]) expect(place).toBeGreaterThan(0);
  const dead = [bitmap + 102_400, film + 81_920, film + 92_160, paper + 512].map((at) => at - (at % 512));
  // The practice reader as it is when a card is worn: it gives no content where a place does not read.
  await page.route("**/media/props-card", (route) => {
    const [, first, last] = /bytes=(\d+)-(\d+)/.exec(route.request().headers().range ?? "") ?? [];
    const isDead = dead.some((at) => at <= Number(last) && at + 512 > Number(first));
    return isDead ? route.fulfill({ status: 204 }) : route.continue();
  });
  await startWithProps(bench);
  for (const name of ["rehearsal crocodile.mp4", "poster draft.bmp", "programme.pdf"]) {
    await look(bench, name);
    await expect(viewer(page), name).toContainText(/do(es)? not read|cannot be read|unreadable/);
    await page.keyboard.press("Escape");
  }
  // The film goes on behind its holes, which stand on its bar.
  await look(bench, "rehearsal crocodile.mp4");
  await expect.poll(async () => (await state(page)).length).toBeCloseTo(9, 0);
  await expect(viewer(page).getByTitle("this part is lost")).toHaveCount(2);
  await page.keyboard.press("k");
  await expect.poll(async () => (await state(page)).at).toBeGreaterThan(0.3);
  await page.keyboard.press("Escape");
  await look(bench, "poster draft.bmp");
  await expect(viewer(page).locator("img")).toBeVisible();
  await page.keyboard.press("Escape");
  await look(bench, "backdrop.tiff");
  await expect(viewer(page).locator("img")).toBeVisible();
});

test("facts filter, groups gather, tiles grow; days with few things stand side by side and keys go where the eye does", async ({
  bench,
}) => {
  const { page, finds } = bench;
  await startWithProps(bench);
  await expect(finds).toHaveCount(14);
  const tops = () => finds.evaluateAll((all) => all.map((one) => Math.round(one.getBoundingClientRect().top)));
  // Eight days, of which none has more than two things: three rows, not eight.
  expect(new Set(await tops()).size).toBeLessThanOrEqual(3);
  await page.getByRole("listbox", { name: "Finds" }).focus();
  const places = await finds.evaluateAll((all) => all.map((one) => one.getBoundingClientRect().left));
  await finds.nth(2).click();
  await page.keyboard.press("ArrowDown");
  const below = finds.filter({ visible: true }).and(page.locator('[class*="outline-3"]'));
  expect(await below.evaluate((one) => one.getBoundingClientRect().left)).toBeCloseTo(places[2], 0);

  await page.getByRole("button", { name: "facts" }).click();
  const facts = page.getByRole("region", { name: "Facts" });
  await facts.getByRole("button", { name: /^mp4/ }).click();
  await expect.poll(() => bench.shown()).toBe(1);
  await expect(facts.getByRole("button", { name: /^webm/ })).toContainText("1");
  await facts.getByRole("button", { name: /^webm/ }).click();
  await expect.poll(() => bench.shown()).toBe(2);
  await page.getByRole("button", { name: "facts" }).click();
  await page.getByRole("button", { name: "mp4, webm" }).click();
  await expect.poll(() => bench.shown()).toBe(14);
  await page.getByRole("button", { name: "facts" }).click();
  await facts.getByRole("button", { name: /^under 10 s/ }).click();
  // Three films and a voice note; the tone lasts longer.
  await expect.poll(() => bench.shown()).toBe(4);
  const { violations: ofFacts } = await new AxeBuilder({ page }).analyze();
  expect(ofFacts.filter(({ impact }) => impact === "serious" || impact === "critical")).toEqual([]);
  await page.getByRole("button", { name: "Show all" }).click();
  await page.getByRole("button", { name: "facts" }).click();

  await page.getByLabel("Order: newest first, by day").click();
  await page.getByRole("radio", { name: "by folder" }).check();
  await expect(page.getByRole("listbox", { name: "Finds" })).toContainText("/Drawings/");
  await page.getByRole("radio", { name: "largest first" }).check();
  await expect(finds.first()).toHaveAccessibleName(/^poster draft\.bmp/);
  const width = () => finds.first().evaluate((one) => one.getBoundingClientRect().width);
  const before = await width();
  await page.getByRole("slider", { name: "size of the tiles" }).fill("300");
  await expect.poll(width).toBeGreaterThan(before + 100);
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter(({ impact }) => impact === "serious" || impact === "critical")).toEqual([]);
  await page.keyboard.press("Escape");
  await expect(page.getByRole("radio", { name: "by folder" })).toBeHidden();
  // Kept by the browser.
  await page.reload();
  await expect.poll(width).toBeGreaterThan(before + 100);
});
