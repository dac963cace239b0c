import { readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import AxeBuilder from "@axe-core/playwright";
import initSqlJs from "sql.js";
import { packBackup } from "../demo/pack-backup.ts";
import { viewedFiles } from "../test/viewing-card.ts";
import { expect, test } from "./bench.ts";

/** The practice backup: 24 bytes of header, then its archive; the database's bytes begin behind the first entry's header. */
const practiceBackup = () => gunzipSync(readFileSync("demo/theatre-phone.ab.gz"));
const DATABASE_AT = 24 + 512;

test("a backup is dropped; erased messages are found in its database, and the page they were read from is shown byte by byte", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.open();
  await bench.drop(bench.file("theatre-phone.ab", practiceBackup()));
  await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
  await bench.scan();
  await expect(page.getByRole("list", { name: "Passes" })).toContainText(/4 Databases.*and \d+ erased/);
  await bench.goTo("Finds");
  await bench.finds.filter({ hasText: /./ }).first().waitFor();
  await page.getByRole("button", { name: "Show as a list" }).click();
  await page.getByRole("option", { name: /^mmssms\.db,/ }).click();
  await page.getByRole("link", { name: "Open its tables" }).click();

  // The table with most erased rows comes first; they stand among the others until one looks at them alone.
  const grid = page.getByRole("grid", { name: "Rows of sms" });
  await expect(grid).toBeVisible();
  await expect(page.getByRole("navigation", { name: "Tables" })).toContainText("threads");
  await bench.chip("erased").click();
  await expect(grid.getByRole("gridcell", { name: "present" })).toHaveCount(0);
  await page.keyboard.press("/");
  await page.keyboard.type("second wagon (16");
  // Message 16 of the practice data was written by Ilse, and is one of every eleventh that were erased later.
  // What the others say of the wagon goes out of sight first: the search is asked of a worker.
  await expect(grid).toHaveAttribute("aria-rowcount", "2");
  await expect(grid.getByRole("row").nth(1)).toContainText("Who has the key to the second wagon? (16");
  await grid.getByRole("row").nth(1).click();
  const row = page.getByRole("complementary", { name: "Row" });
  await expect(row).toContainText("erased");
  await expect(row).toContainText("Where it was read");

  await row.getByRole("button", { name: "Show the page" }).first().click();
  const dialog = page.getByRole("dialog", { name: "Page" });
  await expect(dialog).toContainText("leaf of a table");
  const number = Number(/Page (\d+) of/.exec((await dialog.getByRole("heading").textContent()) ?? "")?.[1]);
  // What is shown is what lies in the file: the first line in sight, held against the database's own bytes.
  const line = dialog.getByRole("group", { name: "Bytes of the page" }).locator("div.absolute").first();
  const offset = (await line.locator("> span").first().textContent()) ?? "";
  const shown = await line.locator("> span").nth(1).locator("span").allTextContents();
  const at = DATABASE_AT + (number - 1) * 4096 + Number.parseInt(offset, 16);
  const bytes = practiceBackup().subarray(at, at + 16);
  expect(shown.join(" ")).toBe(Array.from(bytes, (byte) => byte.toString(16).toUpperCase().padStart(2, "0")).join(" "));
  await page.keyboard.press("Escape");

  // Sorted by a column, moved through by keys; nothing serious for a screen reader.
  await page.getByRole("textbox", { name: "Search in all columns" }).fill("");
  await bench.chip("erased").click();
  await grid.getByRole("button", { name: "date", exact: true }).click();
  await expect(grid.getByRole("columnheader", { name: "date", exact: true })).toHaveAttribute("aria-sort", "ascending");
  await grid.focus();
  await page.keyboard.press("End");
  await expect(row).not.toContainText("second wagon? (16");

  // Columns are made wider, put in another order and taken away; what is left moves up, and the rows go with them.
  const heads = grid.getByRole("columnheader");
  const names = await heads.evaluateAll((all) => all.map((one) => one.getAttribute("aria-label")));
  const width = async () => (await grid.getByRole("columnheader", { name: "body", exact: true }).boundingBox())?.width ?? 0;
  const before = await width();
  await grid.getByRole("separator", { name: "Width of body" }).focus();
  for (let press = 0; press < 3; press++) await page.keyboard.press("ArrowRight");
  expect(await width()).toBe(before + 60);
  await page.locator("summary", { hasText: "Columns" }).click();
  const menu = page.getByRole("list", { name: "Columns" });
  await menu.getByRole("button", { name: "thread_id further left" }).click();
  await menu.getByRole("checkbox", { name: "address" }).uncheck();
  await page.locator("summary", { hasText: "Columns" }).click();
  const after = await heads.evaluateAll((all) => all.map((one) => one.getAttribute("aria-label")));
  // Texts stood first, the message before the number, and moments behind them.
  expect(names.slice(1, 7)).toEqual(["_id", "body", "address", "date", "date_sent", "thread_id"]);
  expect(after).toEqual([names[0], "_id", "body", "date", "thread_id", "date_sent", ...names.slice(7)]);
  await expect(grid.getByRole("row").nth(1).getByRole("gridcell")).toHaveCount(names.length - 1);
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter(({ impact }) => impact === "serious" || impact === "critical")).toEqual([]);
});

test("an encrypted backup asks for its passphrase, says when it was another, and opens", async ({ bench }) => {
  const { page } = bench;
  const archive = practiceBackup().subarray(24);
  await bench.open();
  await bench.drop(bench.file("sealed.ab", packBackup(archive, { passphrase: "moon rig", rounds: 300 })));
  const dialog = page.getByRole("dialog", { name: "sealed.ab is encrypted" });
  await dialog.getByLabel("Passphrase").fill("sun rig");
  await page.keyboard.press("Enter");
  await expect(dialog).toContainText("That was not the passphrase of this backup.");
  await dialog.getByLabel("Passphrase").fill("moon rig");
  await dialog.getByRole("button", { name: "Open the backup" }).click();
  await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
  await bench.scan();
  await expect(page.getByRole("list", { name: "Finds by kind" })).toContainText("databases");
  // It opens by itself from what it was unpacked to; where the browser threw that away, its owner's passphrase is asked for again.
  await page.reload();
  await expect(page.getByRole("button", { name: "Scan again" })).toBeEnabled();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await page.evaluate(async () => (await navigator.storage.getDirectory()).removeEntry("unpacked-backups", { recursive: true }));
  await page.reload();
  await dialog.getByLabel("Passphrase").fill("moon rig");
  await dialog.getByRole("button", { name: "Open the backup" }).click();
  await expect(page.getByRole("button", { name: "Scan again" })).toBeEnabled();
  // Left closed: it says so, and nothing is begun.
  await page.getByRole("link", { name: "To the bench" }).click();
  await bench.drop(bench.file("other.ab", packBackup(archive.subarray(512), { passphrase: "none", rounds: 20 })));
  await page.getByRole("button", { name: "Leave it closed" }).click();
  await expect(page.getByRole("alert")).toHaveText("other.ab is encrypted and stays closed: its owner's passphrase is needed.");
});

test("a database by itself, and an address book: both open as tables", async ({ bench }) => {
  const { page } = bench;
  await bench.open();
  await bench.drop(bench.file("people.vcf", "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Ana Dorin\r\nTEL;TYPE=CELL:+40700000101\r\nEND:VCARD\r\n"));
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("listbox", { name: "Finds" }).getByRole("option").first().click();
  await page.getByRole("link", { name: "Open its entries" }).click();
  await expect(page.getByRole("grid", { name: "Rows of contacts" })).toContainText("Ana Dorin");
});

test("a picture and a film that stand in rows are looked at and played; data that nothing shows offer nothing", async ({ bench }) => {
  const { page } = bench;
  const files = viewedFiles();
  const file = (name: string) => files.get(name) ?? new Uint8Array();
  const SQL = await initSqlJs();
  const database = new SQL.Database();
  database.run("CREATE TABLE keepsakes (_id INTEGER PRIMARY KEY, label TEXT, thing BLOB)");
  // Larger than what a screen is handed of it, so that it lies on pages of its own.
  for (const name of ["pic.png", "film.mp4"]) database.run("INSERT INTO keepsakes (label, thing) VALUES (?, ?)", [name, file(name)]);
  database.run("INSERT INTO keepsakes (label, thing) VALUES ('noise', ?)", [
    Uint8Array.from({ length: 9000 }, (_, at) => (at * 7919) % 251),
  ]);
  await bench.open();
  await bench.choose(bench.file("keepsakes.db", Buffer.from(database.export())));
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("button", { name: "Show as a list" }).click();
  await page.getByRole("option", { name: /^keepsakes\.db,/ }).click();
  await page.getByRole("link", { name: "Open its tables" }).click();
  const rows = page.getByRole("grid", { name: "Rows of keepsakes" }).getByRole("row");
  const beside = page.getByRole("complementary", { name: "Row" });
  const large = page.getByRole("dialog", { name: "thing, large" });
  // A cell says how many bytes there are, not how many of them a screen was handed.
  await expect(rows.filter({ hasText: "noise" })).toContainText("9.0 KB of data");
  await rows.filter({ hasText: "pic.png" }).click();
  await beside.getByRole("button", { name: "Look at thing" }).click();
  await expect
    .poll(() =>
      large
        .getByRole("img")
        .first()
        .evaluate((image: HTMLImageElement) => image.naturalWidth),
    )
    .toBe(64);
  // It is no find of the ticket: it cannot be put in the tray, and there is nothing before or behind it.
  await expect(large.getByRole("button", { name: /tray|The next one/ })).toHaveCount(0);
  const { violations } = await new AxeBuilder({ page }).include("dialog").analyze();
  expect(violations.filter(({ impact }) => impact === "serious" || impact === "critical")).toEqual([]);
  await page.keyboard.press("Escape");
  await rows.filter({ hasText: "film.mp4" }).click();
  await beside.getByRole("button", { name: "Look at thing" }).click();
  await expect.poll(() => large.locator("video").evaluate((film: HTMLVideoElement) => film.duration)).toBeGreaterThan(0.8);
  await page.keyboard.press("Escape");
  await rows.filter({ hasText: "noise" }).click();
  await expect(beside).toContainText("9.0 KB of data");
  await expect(beside.getByRole("button", { name: "Look at thing" })).toHaveCount(0);
});
