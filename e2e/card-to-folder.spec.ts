import { readFileSync } from "node:fs";
import { BlobReader, BlobWriter, type FileEntry, ZipReader } from "@zip.js/zip.js";
import { hashOf, practiceTruth } from "../test/scanning.ts";
import { type Bench, expect, test } from "./bench.ts";

/** The pictures of the tour that can come back byte for byte: their SHA-256 by the name without its lost first letter. */
const tour = new Map(
  practiceTruth()
    .files.filter(({ path, state, inOneRun }) => state === "erased" && inOneRun && path.startsWith("/DCIM/101TOUR/"))
    .map(({ path, sha256 }) => [path.slice(path.lastIndexOf("/") + 2), sha256]),
);

/** From the dropped image to the chosen pictures: the days of the loss, erased, whole. */
async function chooseTheTour(bench: Bench): Promise<void> {
  const { page } = bench;
  await bench.goTo("Finds");
  await expect(bench.chip("erased")).toContainText("43");
  // The wants speak of 2 to 9 May: brushed over, then put right by the keys to the day.
  const days = page.getByTestId("days");
  const box = await days.boundingBox();
  if (!box) throw new Error("no days");
  await page.mouse.move(box.x + box.width * 0.7, box.y + 30);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.95, box.y + 30, { steps: 5 });
  await page.mouse.up();
  for (const [side, wanted] of [
    ["first day", "2 May 2026"],
    ["last day", "9 May 2026"],
  ]) {
    const slider = page.getByRole("slider", { name: side });
    const target = Date.parse(`${wanted} UTC`) / 86_400_000;
    for (let step = 0; step < 60; step++) {
      const now = Number(await slider.getAttribute("aria-valuenow"));
      if (now === target) break;
      await slider.press(now < target ? "ArrowRight" : "ArrowLeft");
    }
    await expect(slider).toHaveAttribute("aria-valuetext", wanted);
  }
  await bench.chip("erased").click();
  await bench.chip("whole").click();
  await expect.poll(() => bench.shown()).toBe(tour.size);
}

test("a dropped card image, the days of the loss, previews, tray, folder: the files are the lost ones, byte for byte", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.answerFolderPicker();
  await bench.open();
  await bench.drop(bench.card());
  await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
  await expect(page.getByRole("heading", { name: "theatre-card.img" })).toBeVisible();
  await bench.scan();
  await expect(page.getByRole("list", { name: "Finds by kind" }).getByRole("listitem").first()).toContainText("41 erased");
  await chooseTheTour(bench);

  // A picture that is looked at: its facts, why Jubar thinks so, and large.
  await bench.finds.first().click();
  const inspector = page.getByRole("complementary", { name: "Inspector" });
  await expect(inspector).toContainText("erased");
  await expect(inspector).toContainText("Corvane Siskin 3");
  await expect(inspector).toContainText("its entry in /DCIM/?01TOUR/ is marked deleted");
  await expect.poll(() => bench.finds.first().locator("canvas, img").count()).toBeGreaterThan(0);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toContainText("1024 × 768");
  await page.keyboard.press("Escape");

  await bench
    .tray()
    .getByRole("button", { name: `Choose all ${tour.size} shown` })
    .click();
  await expect(bench.tray()).toContainText(`${tour.size} chosen`);
  await bench.tray().getByRole("link", { name: "Hand over" }).click();
  await page.getByRole("button", { name: "Choose the folder and write" }).click();
  const proof = page.getByRole("region", { name: "Proof" });
  await expect(proof).toContainText(`${tour.size} of ${tour.size} files arrived intact`);

  const given = await bench.givenBack();
  const pictures = [...given].filter(([path]) => /\/photos\//.test(path));
  expect(new Map(pictures.map(([path, content]) => [path.slice(path.lastIndexOf("/") + 2), hashOf(content)]))).toEqual(tour);
  const [, list] = [...given].find(([path]) => path.endsWith("/sha256sums.txt")) ?? [];
  expect(list?.toString().trim().split("\n").sort()).toEqual(
    pictures.map(([path, content]) => `${hashOf(content)}  ${path.slice(path.indexOf("/") + 1)}`).sort(),
  );

  const [summary] = await Promise.all([page.waitForEvent("popup"), proof.getByRole("link", { name: "Open the summary" }).click()]);
  await expect(summary.getByText(`${tour.size} of ${tour.size} files written, read back and found equal`)).toBeVisible();
  await page.getByRole("link", { name: "To the bench" }).click();
  await page.getByRole("button", { name: /^done/ }).click();
  await expect(page.getByRole("row").filter({ hasText: `${tour.size} of ${tour.size} files given back` })).toBeVisible();
});

test("where the browser cannot write into folders, one archive holds the same files", { tag: "@long" }, async ({ bench }) => {
  const { page } = bench;
  await bench.takeFolderPickerAway();
  await bench.startPracticeJob();
  await bench.scan();
  await bench.goTo("Finds");
  await bench.showEverything();
  await chooseTheTour(bench);
  await bench
    .tray()
    .getByRole("button", { name: /^Choose all/ })
    .click();
  await bench.tray().getByRole("link", { name: "Hand over" }).click();
  await expect(page.getByText("this browser cannot write into folders")).toBeVisible();
  await page.getByRole("button", { name: "Make the archive" }).click();
  await expect(page.getByRole("region", { name: "Proof" })).toContainText("arrived intact");
  const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "Save the archive" }).click()]);
  const entries = await new ZipReader(new BlobReader(new Blob([readFileSync(await download.path())]))).getEntries();
  const found = new Map<string, string>();
  for (const entry of entries.filter((one): one is FileEntry => !one.directory && /\/photos\//.test(one.filename)))
    found.set(
      entry.filename.slice(entry.filename.lastIndexOf("/") + 2),
      hashOf(new Uint8Array(await (await entry.getData(new BlobWriter())).arrayBuffer())),
    );
  expect(found).toEqual(tour);
});
