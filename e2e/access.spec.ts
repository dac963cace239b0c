import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import type { Bench } from "./bench.ts";
import { expect, type Kit, test } from "./kit.ts";

/** WCAG 2.2 A and AA by axe: nothing serious. */
async function expectAccessible(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).withTags(["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]).analyze();
  const serious = violations.filter(({ impact }) => impact === "serious" || impact === "critical");
  expect(serious.map(({ id, nodes }) => `${id}: ${nodes.map(({ target }) => target.join(" ")).join("; ")}`)).toEqual([]);
}

/** 1280 × 800 must not scroll sideways, and nothing of the main parts may hang over the edge. */
async function expectToFit(page: Page): Promise<void> {
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1280);
}

async function everyScreen(bench: Bench): Promise<void> {
  const { page } = bench;
  const check = async () => {
    await expectAccessible(page);
    await expectToFit(page);
  };
  await bench.open();
  await check();
  await page.getByRole("button", { name: "Start a job with it" }).first().click();
  await expect(page.getByRole("button", { name: "Start the scan" })).toBeEnabled();
  await check();
  await bench.goTo("Finds");
  await expect(page.getByText("Nothing was found yet.")).toBeVisible();
  await check();
  await bench.goTo("Copy & scan");
  await bench.scan();
  await check();
  await bench.goTo("Finds");
  await bench.finds.first().click();
  await check();
  await page.getByRole("button", { name: "Show as a list" }).click();
  await check();
  await bench.finds.first().click();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toBeVisible();
  await check();
  await page.keyboard.press("Escape");
  await bench.goTo("Hand-over");
  await check();
  await bench.goTo("Intake");
  await page.getByRole("button", { name: "nobody has it" }).click();
  await page.getByRole("button", { name: "factory reset" }).click();
  await check();
  await bench.goTo("Ways in");
  await check();
  await page.getByRole("link", { name: "To the bench" }).click();
  await page.getByRole("button", { name: "New ticket", exact: true }).click();
  await bench.goTo("Copy & scan");
  await expect(page.getByText("This ticket has no storage yet.")).toBeVisible();
  await check();
  await bench.goTo("Logbook");
  await check();
  await page.getByRole("link", { name: "To the bench" }).click();
}

/** The screens that phones bring: bench with one, its running checklist, its copy, the logbook, model cards. */
async function phoneScreens(bench: Bench, kit: Kit): Promise<void> {
  const { page } = bench;
  const check = async () => {
    await expectAccessible(page);
    await expectToFit(page);
  };
  await bench.open();
  await kit.take("tern-rooted");
  await kit.does("Plug the cable in");
  const phone = page.getByRole("article", { name: "Tern One" });
  await expect(phone.getByRole("status")).toHaveText("Waiting for its owner to allow this computer");
  await phone.getByRole("button", { name: "What can it be?" }).click();
  await check();
  await phone.getByRole("button", { name: "New ticket for it" }).click();
  await page.getByRole("group", { name: "Locked?" }).getByRole("button", { name: "open", exact: true }).click();
  await bench.goTo("Ways in");
  const ways = page.getByRole("group", { name: "All ways" });
  await ways.getByRole("button", { name: /^USB debugging 5/ }).click();
  await check();
  await ways.getByRole("button", { name: /^Recovery mode/ }).click();
  await check();
  await kit.tap("Allow");
  await bench.goTo("Intake");
  await page.getByRole("button", { name: "Look on the attached phone now" }).click();
  await expect(page.getByRole("region", { name: "Look here first" })).toContainText("2 of 8 contacts only hidden");
  await check();
  await bench.goTo("Copy & scan");
  await check();
  await page.getByRole("button", { name: "Take its shared storage" }).click();
  await expect(page.getByRole("button", { name: "Copy it, then scan", exact: true })).toBeVisible();
  await check();
  await bench.goTo("Logbook");
  await check();
  await page.getByRole("link", { name: "To the bench" }).click();
  await page.getByRole("link", { name: "Model cards" }).click();
  await page.getByRole("button", { name: "New card" }).click();
  await check();
}

test("every screen passes axe and fits 1280 × 800, by day", async ({ bench }) => {
  await bench.page.emulateMedia({ colorScheme: "light" });
  await everyScreen(bench);
});

test("every screen passes axe and fits 1280 × 800, in the evening", { tag: "@long" }, async ({ bench }) => {
  await bench.page.emulateMedia({ colorScheme: "dark" });
  await everyScreen(bench);
  await expect(bench.page.locator("html")).toHaveAttribute("data-theme", "evening");
});

for (const colorScheme of ["light", "dark"] as const)
  test(`the screens of phones pass axe and fit, ${colorScheme}`, { tag: "@long" }, async ({ bench, kit }) => {
    await bench.page.emulateMedia({ colorScheme });
    await phoneScreens(bench, kit);
  });

test("from the bench to written files with the keyboard alone", async ({ bench }) => {
  const { page } = bench;
  await bench.answerFolderPicker();
  await bench.open();
  const press = async (name: RegExp | string, role: "button" | "link" = "button") => {
    // Tabs until the focus stands on it: it must be reachable.
    for (let step = 0; step < 60; step++) {
      await page.keyboard.press("Tab");
      const target = page.getByRole(role, { name }).first();
      if (await target.evaluate((element) => element === document.activeElement, undefined, { timeout: 3000 }).catch(() => false)) {
        await page.keyboard.press("Enter");
        return;
      }
    }
    throw new Error(`${name} is not reached by the Tab key`);
  };
  await press("Start a job with it");
  await expect(page).toHaveURL(/scan/);
  await expect(page.getByRole("button", { name: "Start the scan" })).toBeEnabled();
  await press("Start the scan");
  await expect(bench.progress).toContainText("done in", { timeout: 60_000 });
  await press("Finds", "link");
  await expect(bench.finds.first()).toBeVisible();
  await press(/^erased/);
  await page.keyboard.press("/");
  await page.keyboard.type("isk0406");
  await expect.poll(() => bench.shown()).toBe(1);
  await page.getByRole("listbox", { name: "Finds" }).focus();
  await page.keyboard.press("Home");
  await page.keyboard.press("Space");
  await expect(bench.tray()).toContainText("1 chosen");
  await press("Hand over", "link");
  await press("Choose the folder and write");
  await expect(page.getByRole("region", { name: "Proof" })).toContainText("1 of 1 file arrived intact");
  expect([...(await bench.givenBack()).keys()].filter((path) => path.includes("photos"))).toEqual([
    expect.stringMatching(/photos\/_ISK0406\.JPG$/),
  ]);
});
