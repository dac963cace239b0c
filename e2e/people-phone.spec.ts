import { readFileSync } from "node:fs";
import { gunzipSync } from "node:zlib";
import ICAL from "ical.js";
import Papa from "papaparse";
import initSqlJs from "sql.js";
import { theatreDatabases } from "../demo/theatre-people.ts";
import { expect, test } from "./kit.ts";

/** What was erased on the practice phone, and whether its moment, as SQLite stores it, still stands anywhere in the storage. */
interface Erased {
  readonly text: string;
  readonly isLeft: boolean;
}

const storage = gunzipSync(readFileSync("demo/tern-userdata.img.gz"));
/** A whole number as a row holds it ("Database File Format" §2.1): four bytes, or six, the highest first. */
function stored(moment: number): Buffer {
  const bytes = Buffer.alloc(moment < 2 ** 31 ? 4 : 6);
  bytes.writeUIntBE(moment, 0, bytes.length);
  return bytes;
}

/** Rows that the commands of a practice database made, without those that stand after they were thinned out. `query`: text and moment of each. */
async function erasedOf(path: string, query: string): Promise<Erased[]> {
  const SQL = await initSqlJs();
  const commands = [...theatreDatabases()].find(([one]) => one.endsWith(path))?.[1] ?? "";
  const told = (sql: string): [string, number][] => {
    const database = new SQL.Database();
    database.run(sql);
    const rows = database.exec(query)[0]?.values.map(([text, moment]): [string, number] => [String(text), Number(moment)]) ?? [];
    database.close();
    return rows;
  };
  const left = new Set(told(commands).map(([, moment]) => moment));
  return told(commands.replace(/^DELETE .*$/gm, ""))
    .filter(([, moment]) => !left.has(moment))
    .map(([text, moment]) => ({ text, isLeft: storage.includes(stored(moment)) }));
}

test("a rooted phone: what Ana wrote in the first days of May was erased; its want counts up, its conversations open, and all of it is given back", async ({
  bench,
  kit,
  ticket,
}) => {
  const { page } = bench;
  await bench.answerFolderPicker();
  await bench.open();
  await kit.take("tern-letters");
  await ticket.intake("Corvane Tern One", { lock: "open" });
  const wanted = page.getByRole("region", { name: "What is wanted" });
  await wanted.getByLabel("Kind").selectOption("messages");
  await wanted.getByLabel("With whom").fill("Ana");
  await wanted.getByLabel("From").fill("2026-05-02");
  await wanted.getByLabel("To", { exact: true }).fill("2026-05-09");
  await wanted.getByRole("button", { name: "Add this want" }).click();
  await ticket.openRooted(kit);
  const chip = page.getByRole("list", { name: "wants" }).getByRole("button");
  await expect(chip).toHaveText("messages with Ana 2–9 May· 0");
  await ticket.copy("Take partition userdata");
  await ticket.scanCopy();
  await page.getByRole("button", { name: "Close the practice kit" }).click();
  await expect(chip).toHaveText(/· [1-9]\d+$/);

  // Finds opens on the want: the conversations in which such messages stand.
  await bench.goTo("Finds");
  await expect(page).toHaveURL(/finds\/conversations$/);
  const list = page.getByRole("listbox", { name: "Conversations" });
  const lines = list.getByRole("option");
  await expect(lines.first()).toContainText("hold that");
  const shown = async () =>
    (await lines.allTextContents()).reduce((sum, line) => sum + Number(/(\d+) of \d+ hold that$/.exec(line)?.[1]), 0);
  await expect.poll(async () => (await shown()) - Number((await chip.textContent())?.split("· ").at(-1))).toBe(0);
  // Text messages and a messenger that nobody told Jubar of; the troupe's group beside them.
  for (const line of await lines.filter({ hasText: "Ana Dorin" }).all()) {
    await line.click();
    await page.getByRole("button", { name: /^Choose all \d+ of this conversation/ }).click();
    await expect(bench.tray()).toContainText(/\d/);
  }
  // A picture that a message names is shown where it stands.
  await page.getByRole("button", { name: /^Only messages with Ana/ }).click();
  await page.getByPlaceholder("Names, numbers and words").fill("FW124");
  await expect(lines.first()).toContainText("hold that");
  await lines.first().click();
  await expect(page.getByRole("button", { name: /^Look at FW/ }).first()).toBeVisible();

  // One search is for all rooms: it is taken off before the next one.
  await page.getByPlaceholder("Names, numbers and words").fill("");
  await page.getByRole("link", { name: /^contacts/ }).click();
  await expect(page.getByText("2 are not lost, only hidden.")).toBeVisible();
  await page.getByRole("option", { name: /Bela Korda/ }).click();
  await expect(page.getByRole("complementary", { name: "Bela Korda" })).toContainText(
    "Its account “old wagon” is not among the shown ones",
  );
  await page.getByRole("complementary", { name: "Bela Korda" }).getByRole("button", { name: "Choose" }).click();

  // What a contact said before stands in the journal of its database, between the two stamps that the address book gave it; a call says more of the number.
  const odile = page.getByRole("complementary", { name: "Odile Karst" });
  await page.getByRole("option", { name: /Odile Karst/ }).click();
  await expect(odile.getByRole("region", { name: "What it said before" }).getByRole("listitem")).toHaveText([
    "number +447700900812became +447700900846 · between 29 Apr 2026 and 30 Apr 2026, a call shows",
    "mail odile@wagon.examplebecame odile.karst@night-tram.example · between 18 Apr 2026 and 30 Apr 2026",
  ]);
  await page.getByLabel("as it was on").fill("2026-04-17");
  await expect(page.getByRole("option", { name: /Odile Karst/ })).toContainText("+447700900812");
  await expect(odile).toContainText("As it was then.");
  await page.getByLabel("as it was on").fill("2026-04-28");
  await expect(page.getByRole("option", { name: /Gate, Oberlauben/ })).toContainText("gone by then");
  await page.getByLabel("as it was on").fill("");

  await bench.goTo("Hand-over");
  await expect(page.getByRole("list", { name: "Asked for" })).toContainText(/messages with Ana 2–9 May\d+ chosen/);
  await page.getByRole("button", { name: "Choose the folder and write" }).click();
  await expect(page.getByRole("region", { name: "Proof" })).toContainText(/(\d+) of \1/);
  const given = [...(await bench.givenBack())];
  const file = (ending: string) => given.find(([path]) => path.endsWith(ending))?.[1].toString() ?? "";
  const { data } = Papa.parse<Record<string, string>>(file("messages.csv").replace(/^\ufeff/, ""), { header: true, skipEmptyLines: true });
  // Pictures have no words of their own.
  const erased = data.filter(({ state, text }) => state === "erased" && text !== "");
  const back = erased.filter(({ condition }) => condition === "whole").map(({ text }) => text);
  const gone = [
    ...(await erasedOf("fadenwerk.db", "SELECT words, sent_at FROM letter WHERE room_id = 1 AND words IS NOT NULL")),
    ...(await erasedOf("mmssms.db", "SELECT body, date FROM sms WHERE thread_id = 1")),
    ...(await erasedOf("lampwick.db", "SELECT json_extract(payload, '$.body'), stamp FROM wick WHERE peer = '+447700900231'")),
  ];
  // Nothing came back that was not written; and all that still stands in the storage came back, whole or marked as damaged.
  const written = gone.map(({ text }) => text);
  for (const text of back) {
    const at = written.indexOf(text);
    expect(at, text).toBeGreaterThanOrEqual(0);
    written.splice(at, 1);
  }
  for (const { condition, text } of erased)
    if (condition !== "whole")
      expect(
        gone.some((one) => one.text.includes(text.trim())),
        text,
      ).toBe(true);
  const survives = gone.filter(({ isLeft }) => isLeft).length;
  expect(survives).toBeGreaterThan(70);
  // Of a row whose words were overwritten its moment may be left.
  expect(erased.length).toBeGreaterThanOrEqual(survives * 0.95);
  const card = new ICAL.Component(ICAL.parse(file(".vcf")));
  expect(card.getFirstPropertyValue("fn")).toBe("Bela Korda");
  expect(file("summary.html")).toMatch(/<dt>Asked for<\/dt><dd>messages with Ana 2–9 May: \d+ given/);
});

test("a phone whose files are encrypted: a copy of its storage says so, shows sizes and no content, and pretends nothing", {
  tag: "@long",
}, async ({ bench, kit, ticket }) => {
  const { page } = bench;
  await bench.open();
  await kit.take("siskin-encrypted");
  await ticket.intake("Corvane Siskin 3", { lock: "open" });
  await ticket.openRooted(kit);
  await ticket.copy("Take partition userdata");
  await ticket.scanCopy();
  await expect(page.getByRole("main")).toContainText(/encrypted/);
  await bench.goTo("Finds");
  await expect(bench.chip("photos")).toHaveCount(0);
  await expect(page.getByRole("link", { name: /^conversations/ })).toHaveCount(0);
});

test("one search over all rooms, conversations by app, a stretch of one into the tray; a table shows its texts first and times as times", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.open();
  await bench.drop(bench.file("tern-userdata.img", storage));
  await bench.scan();
  await bench.goTo("Finds");
  // What is typed over the wall is looked for everywhere; the ways to the other rooms say how much of it is there.
  await page.getByPlaceholder("Names and folders").fill("ilse");
  const contacts = page.getByRole("link", { name: /^contacts/ });
  await expect(contacts).toContainText("1 hold the words");
  await contacts.click();
  await expect(page.getByPlaceholder("Names, numbers and words")).toHaveValue("ilse");
  await expect(page.getByRole("listbox", { name: "Contacts" }).getByRole("option")).toHaveCount(1);
  await page.getByPlaceholder("Names, numbers and words").fill("fw124");
  await expect(page.getByRole("link", { name: /^photos and files/ })).toContainText("5 hold the words");
  const hits = page.getByRole("link", { name: /^conversations/ });
  await expect(hits).toContainText(/\d+ hold the words/);
  await page.getByPlaceholder("Names, numbers and words").fill("");

  await hits.click();
  const lines = page.getByRole("listbox", { name: "Conversations" }).getByRole("option");
  await expect(lines.first()).toHaveAttribute("aria-setsize", "17");
  const apps = page.getByRole("combobox", { name: "App" });
  await expect(apps.locator("option")).toHaveText(["all apps", "fadenwerk.db (7)", "lampwick.db (6)", "text messages (4)"]);
  await apps.selectOption({ label: "text messages (4)" });
  await expect(lines).toHaveCount(4);
  await apps.selectOption({ label: "all apps" });
  await expect(lines.first()).toHaveAttribute("aria-setsize", "17");

  // Erased ones only: the list says how many of each conversation these are, and what fits goes into the tray at once.
  const erased = page.getByRole("button", { name: /^erased/ });
  const count = Number((await erased.textContent())?.match(/\d+/)?.[0]);
  await erased.click();
  await expect(lines.first()).toContainText(/\d+ of \d+/);
  const found = await lines.allTextContents();
  expect(found.reduce((sum, line) => sum + Number(/(\d+) of \d+ hold that$/.exec(line)?.[1]), 0)).toBe(count);
  await page.getByRole("combobox", { name: "Order" }).selectOption("most erased first");
  await expect(lines.first()).toContainText(/Ana Dorin.*57 of 224 hold that$/);
  await lines.first().click();
  await page.getByRole("button", { name: "Choose all 57 shown" }).click();
  await expect(bench.tray()).toContainText("57 chosen");
  await page.getByRole("button", { name: "Empty tray" }).click();
  // The days that matter: the axis stays, and what is counted is of these days.
  await page.getByRole("button", { name: "drag over the days that matter" }).click();
  const days = page.getByRole("region", { name: "Days" });
  const some = Number((await days.textContent())?.match(/· (\d+) messages/)?.[1]);
  expect(some).toBeLessThan(count);
  await expect(erased).toContainText(String(some));
  await page.getByRole("slider", { name: "last day" }).press("ArrowLeft");
  await expect(erased).not.toContainText(String(some));
  await days.getByRole("button", { name: "all days" }).click();
  await expect(erased).toContainText(String(count));
  // Damaged ones of them: few.
  await page.getByRole("button", { name: /^damaged/ }).click();
  await expect(erased).toContainText("4");
  await expect(lines.first()).toContainText(/[1-4] of \d+ hold that$/);
  await page.getByRole("button", { name: /^damaged/ }).click();
  await erased.click();
  await expect(lines.first()).toHaveAttribute("aria-setsize", "17");
  await page.getByRole("combobox", { name: "Order" }).selectOption("latest first");
  await lines.first().click();

  const messages = page.getByRole("listbox", { name: "Messages" }).getByRole("option");
  await messages.last().click();
  for (let press = 0; press < 3; press++) await page.keyboard.press("Shift+ArrowUp");
  await expect(bench.tray()).toContainText("4 chosen");
  await messages.first().click({ modifiers: ["Shift"] });
  await expect(bench.tray()).toContainText(/([5-9]|\d\d) chosen/);

  // One person's time line: the file of a message is looked at where it is named.
  await lines
    .filter({ hasText: /Ana Dorin/ })
    .first()
    .click();
  await messages.last().click();
  await page.getByRole("link", { name: "Everything of this person" }).click();
  const of = page.getByRole("toolbar", { name: "What of it" });
  const time = page.getByRole("listbox", { name: "Time line" }).getByRole("option");
  // By its app: the letters of one messenger, and the calls besides.
  await expect(page.getByRole("complementary", { name: "Who this is" })).toContainText(
    "1 file is named in them and not among what was found.",
  );
  await of.getByRole("button", { name: /^lampwick\.db/ }).click();
  await expect(time.first()).toContainText("lampwick.db");
  await expect(time.filter({ hasText: "fadenwerk.db" })).toHaveCount(0);
  await of.getByRole("button", { name: /^calls/ }).click();
  await expect(time.filter({ hasText: "call" }).first()).toBeVisible();
  for (const chip of [/^lampwick/, /^calls/]) await of.getByRole("button", { name: chip }).click();
  await of.getByRole("button", { name: /^with files/ }).click();
  // What is there shows in its line.
  await expect(time.filter({ hasNotText: "FW1245" }).first().getByRole("img")).toBeVisible();
  await expect(time.filter({ hasText: "FW1245" }).first().getByLabel("with files")).toBeVisible();
  await time.filter({ hasNotText: "FW1245" }).first().click();
  await page.getByRole("button", { name: /^Look at FW/ }).click();
  await expect(page.getByRole("dialog").getByRole("img").first()).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Back" }).click();

  await page.getByRole("link", { name: /^photos and files/ }).click();
  await page.getByPlaceholder("Names and folders").fill("fadenwerk.db");
  await page.getByRole("option", { name: /^fadenwerk\.db,/ }).click();
  await page.getByRole("link", { name: "Open its tables" }).click();
  await page
    .getByRole("navigation", { name: "Tables" })
    .getByRole("button", { name: /^letter/ })
    .click();
  const grid = page.getByRole("grid", { name: "Rows of letter" });
  const heads = grid.getByRole("columnheader");
  await expect
    .poll(() => heads.evaluateAll((some) => some.slice(0, 3).map((one) => one.textContent)))
    .toEqual(["state", "row id", "words"]);
  await expect(grid.getByRole("row").nth(1)).toContainText(/2026-0[45]-\d\d \d\d:\d\d:\d\d UTC/);
  await grid.getByRole("row").nth(1).click();
  await expect(page.getByRole("complementary", { name: "Row" })).toContainText(/sent_at17\d{11}/);
});
