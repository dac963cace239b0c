import { expect, test } from "./bench.ts";

test("finds are narrowed, sorted, looked at, and the choice outlives the page", async ({ bench }) => {
  const { page } = bench;
  await bench.startPracticeJob();
  await bench.scan();
  await bench.goTo("Finds");
  // It opens on what they came for; the same chip once more, and everything is there.
  const want = page.getByRole("list", { name: "wants" }).getByRole("button").first();
  await expect(want).toHaveAttribute("aria-pressed", "true");
  await expect(want).toHaveText(/^photos 2–9 May· [1-9]\d*$/);
  // Its count is told again while what was found settles.
  const asked = async () => Number((await want.textContent())?.split("· ").at(-1));
  await expect.poll(async () => (await bench.shown()) - (await asked())).toBe(0);
  await bench.finds.first().click();
  await expect(page.getByRole("complementary", { name: "Inspector" })).toContainText("answersphotos 2–9 May");
  await want.click();
  await expect(want).toHaveAttribute("aria-pressed", "false");
  await expect.poll(() => bench.shown()).toBe(73);

  // Chips count what they would show; several add up, kinds and states cut across each other.
  await bench.chip("binned").click();
  await bench.chip("erased").click();
  await expect.poll(() => bench.shown()).toBe(46);
  await bench.chip("sound").click();
  await expect.poll(() => bench.shown()).toBe(2);
  await page.getByRole("button", { name: "Show all" }).click();
  await expect.poll(() => bench.shown()).toBe(73);

  await page.getByRole("button", { name: "Show as a list" }).click();
  await page.getByLabel(/^Order: newest first/).click();
  await page.getByRole("radio", { name: "by name" }).check();
  await expect(bench.finds.first()).toHaveAttribute("aria-label", /^\?ISK0403\.JPG/);
  await page.getByRole("radio", { name: "largest first" }).check();
  await expect(bench.finds.first()).toHaveAttribute("aria-label", /Akkordeon Walzer\.wav, present, whole/);
  await page.getByPlaceholder("Names and folders").fill("plakate афиша");
  await expect(bench.finds).toHaveCount(1);
  await expect(bench.finds.first()).toHaveAttribute("aria-label", "Афиша май.png, erased, whole");
  await page.getByPlaceholder("Names and folders").fill("no such thing");
  await expect(page.getByText("Nothing passes these filters.")).toBeVisible();
  await page.getByRole("button", { name: "Show all" }).click();

  // A binned one says until when; one whose place is taken cannot be chosen.
  await bench.chip("binned").click();
  await bench.finds.first().click();
  const inspector = page.getByRole("complementary", { name: "Inspector" });
  await expect(inspector).toContainText("the bin may drop it any time");
  await inspector.getByRole("button", { name: "Choose" }).click();
  await expect(bench.finds.first()).toHaveAttribute("aria-selected", "true");
  await page.getByRole("button", { name: "Show all" }).click();
  await bench.chip("remnant").click();
  await page.getByRole("listbox", { name: "Finds" }).press("End");
  await expect(inspector).toContainText(/in use by something else now|beginning was overwritten|breaks off/);

  await page.reload();
  await expect(bench.tray()).toContainText("1 chosen");
  await bench.tray().getByRole("button", { name: "Empty tray" }).click();
  await expect(bench.tray()).toContainText("Nothing chosen yet");
});

test("a place on the storage map leads to what lies there", async ({ bench }) => {
  const { page } = bench;
  await bench.startPracticeJob();
  await bench.scan();
  const map = page.getByRole("region", { name: "Progress" }).locator("canvas");
  const box = await map.boundingBox();
  if (!box) throw new Error("no storage map");
  // The fifth of twelve lines, at its right end: the tour's pictures lie there.
  const at = { x: box.width * 0.95, y: box.height * (4.5 / 12) };
  await map.hover({ position: at });
  await map.click({ position: at });
  await expect(page).toHaveURL(/finds$/);
  await expect(page.getByRole("button", { name: /^around 0x/ })).toBeVisible();
  await expect.poll(async () => Math.abs((await bench.shown()) - 10), "one to nineteen").toBeLessThan(10);
  await page.getByRole("button", { name: /^around 0x/ }).click();
  await expect.poll(() => bench.shown()).toBe(73);
});
