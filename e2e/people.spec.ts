import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { gunzipSync } from "node:zlib";
import AxeBuilder from "@axe-core/playwright";
import ICAL from "ical.js";
import { portrait } from "../demo/draw-portrait.ts";
import { messenger } from "../test/messengers.ts";
import { jpegOf } from "../test/pictures.ts";
import { expect, test } from "./bench.ts";

const practiceBackup = () => gunzipSync(readFileSync("demo/theatre-phone.ab.gz"));

test("what was written to each other is read, an erased message is found by a word, and the conversation is given back as a page", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.answerFolderPicker();
  await bench.open();
  await bench.drop(bench.file("theatre-phone.ab", practiceBackup()));
  await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("link", { name: /^conversations/ }).click();

  // Whoever stands in the address book is called by name, though the messages have only numbers.
  const list = page.getByRole("listbox", { name: "Conversations" });
  await expect(list.getByRole("option")).toHaveCount(4);
  await list.getByRole("option", { name: /Ilse Marwitz/ }).click();
  const thread = page.getByRole("listbox", { name: "Messages" });
  await expect(thread.getByRole("option").first()).toBeVisible();
  await page.keyboard.press("/");
  await page.keyboard.type("second wagon (16");
  await expect(list.getByRole("option")).toHaveCount(1);
  await expect(list).toContainText("1 of");
  const hit = thread.getByRole("option").filter({ has: page.locator("mark") });
  await expect(hit).toHaveCount(1);
  await expect(hit).toContainText("Who has the key to the second wagon? (16");
  await expect(hit).toContainText("erased");
  await hit.click();
  const facts = page.getByRole("complementary", { name: /^Message/ });
  await expect(facts).toContainText("Why we think so");
  await expect(facts.getByRole("link", { name: "Show the tables" })).toBeVisible();
  await facts.getByRole("button", { name: "Choose", exact: true }).click();
  await expect(bench.tray()).toContainText("1 message");
  expect(
    (await new AxeBuilder({ page }).analyze()).violations.filter(({ impact }) => impact === "serious" || impact === "critical"),
  ).toEqual([]);

  await bench.goTo("Hand-over");
  await expect(page.getByRole("region", { name: "What", exact: true })).toContainText("1 message");
  await page.getByRole("button", { name: "Choose the folder and write" }).click();
  await expect(page.getByRole("region", { name: "Proof" })).toContainText("3 of 3");
  const given = [...(await bench.givenBack())];
  const [, html] = given.find(([path]) => path.endsWith(".html") && path.includes("/people/")) ?? [];
  expect(html?.toString()).toContain("Who has the key to the second wagon? (16");
  const [, json] = given.find(([path]) => path.endsWith("people/messages.json")) ?? [];
  expect(JSON.parse(json?.toString() ?? "[]")).toMatchObject([{ kind: "message", state: "erased", direction: "out" }]);
});

test("contacts and calls: chosen with the keyboard, given as cards that a library reads, with every form that was asked for", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.answerFolderPicker();
  await bench.open();
  await bench.drop(bench.file("theatre-phone.ab", practiceBackup()));
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("link", { name: /^contacts/ }).click();
  const contacts = page.getByRole("listbox", { name: "Contacts" });
  await expect(contacts.getByRole("option")).toHaveCount(3);
  // Two of them have a picture, in the list and on the card; the third is told by its letters.
  await expect(contacts.locator("img")).toHaveCount(2);
  await contacts.focus();
  await page.keyboard.press("ArrowDown");
  await expect(page.getByRole("complementary", { name: "Ana Dorin" }).locator("img")).toBeVisible();
  await page.keyboard.press("Space");
  await expect(bench.tray()).toContainText("1 contact");
  await page.getByRole("link", { name: /^calls/ }).click();
  await bench.chip("erased").click();
  const calls = page.getByRole("listbox", { name: "Calls" });
  await expect(calls.getByRole("option").first()).toContainText("erased");
  await page.getByRole("button", { name: /^Choose all 38 shown/ }).click();
  await expect(bench.tray()).toContainText("38 calls");
  await bench.goTo("Hand-over");
  await page.getByLabel("vCard 3.0, for older phones").check();
  await page.getByRole("button", { name: "Choose the folder and write" }).click();
  await expect(page.getByRole("region", { name: "Proof" })).toContainText("5 of 5");
  const given = await bench.givenBack();
  for (const [path, bytes] of given) {
    if (!path.endsWith(".vcf")) continue;
    const card = new ICAL.Component(ICAL.parse(bytes.toString()));
    expect(card.getFirstPropertyValue("version")).toBe(path.includes("3.0") ? "3.0" : "4.0");
    expect(card.getFirstPropertyValue("fn")).toBe("Ana Dorin");
    // Byte for byte the picture that her card on the phone has.
    expect(String(card.getFirstPropertyValue("photo"))).toContain(Buffer.from(portrait(0)).toString("base64"));
  }
  const table = [...given].find(([path]) => path.endsWith("calls.csv"))?.[1].toString() ?? "";
  expect(table.trim().split("\r\n")).toHaveLength(39);
});

test("a picture that a message names is shown in it, and opens large; what is not on the storage says so", async ({ bench }) => {
  const { page } = bench;
  // A messenger with its files beside it, of which only some are there.
  const made = messenger(7);
  const folder = join(bench.folder, "phone");
  const named = [...new Set(made.said.flatMap(({ file }) => (file?.endsWith(".jpg") ? [file] : [])))];
  for (const [number, path] of named.entries()) {
    if (number % 2 === 1) continue;
    const place = join(folder, "data/data/net.odd.talk/files", path);
    mkdirSync(dirname(place), { recursive: true });
    writeFileSync(place, jpegOf(300, 200, number + 1));
  }
  mkdirSync(join(folder, "data/data/net.odd.talk/databases"), { recursive: true });
  writeFileSync(join(folder, "data/data/net.odd.talk/databases/store.db"), made.bytes);
  await bench.open();
  await bench.drop(folder);
  await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("link", { name: /^conversations/ }).click();
  const sent = (isThere: boolean) =>
    made.said.find(({ file, erased, text }) => file && !erased && text.length > 15 && named.indexOf(file) % 2 === (isThere ? 0 : 1));
  const lookFor = async (text = "") => {
    await page.keyboard.press("/");
    await page.getByPlaceholder("Names, numbers and words").fill(text);
    const hit = page.getByRole("listbox", { name: "Messages" }).getByRole("option").filter({ hasText: text });
    await expect(hit.first()).toBeVisible();
    return hit.first();
  };
  const shown = await lookFor(sent(true)?.text);
  const picture = shown.getByRole("button", { name: /^Look at/ });
  await expect(picture.locator("img")).toBeVisible();
  await picture.click();
  const dialog = page.getByRole("dialog");
  await expect(dialog).toBeVisible();
  await expect(dialog).toContainText("300 × 200");
  await page.keyboard.press("Escape");
  await expect(dialog).toBeHidden();
  await expect(await lookFor(sent(false)?.text)).toContainText("not found");
});

test("wants count what answers them as it comes; a click shows it, by file or by message, and taken off again everything is there", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.open();
  await bench.drop(bench.file("theatre-phone.ab", practiceBackup()));
  await expect(page).toHaveURL(/\/ticket\/\d+\/scan/);
  await bench.goTo("Intake");
  const wanted = page.getByRole("region", { name: "What is wanted" });
  const want = async (kind: string, who: string, words: string) => {
    await wanted.getByLabel("Kind").selectOption(kind);
    await wanted.getByLabel("With whom").fill(who);
    await wanted.getByLabel("Which words").fill(words);
    await wanted.getByRole("button", { name: "Add this want" }).click();
  };
  await want("messages", "", "second wagon");
  await want("calls", "Ilse", "");
  await want("messages", "", "crocodile nobody speaks of");
  const chips = page.getByRole("list", { name: "wants" }).getByRole("button");
  await expect(chips).toHaveText([/messages · second wagon· 0/, /calls with Ilse· 0/, /crocodile nobody speaks of· 0/]);
  await bench.goTo("Copy & scan");
  await bench.scan();
  await expect(chips.first()).toHaveText(/· [1-9]\d*$/);
  await expect(chips.nth(2)).toHaveText(/· 0$/);
  const found = Number((await chips.first().textContent())?.split("· ").at(-1));
  await chips.first().click();
  await expect(page).toHaveURL(/finds\/conversations$/);
  const list = page.getByRole("listbox", { name: "Conversations" });
  await expect(list.getByRole("option").first()).toContainText("hold that");
  const shown = (await list.getByRole("option").allTextContents()).map((line) => Number(/(\d+) of \d+ hold that$/.exec(line)?.[1]));
  expect(shown.reduce((sum, one) => sum + one, 0)).toBe(found);
  await expect(page.getByPlaceholder("Names, numbers and words")).toHaveValue("second wagon");

  const calls = Number((await chips.nth(1).textContent())?.split("· ").at(-1));
  await chips.nth(1).click();
  await expect(page).toHaveURL(/finds\/calls$/);
  const only = page.getByRole("button", { name: "Only calls with Ilse: show all" });
  await expect(only).toBeVisible();
  const states = page.getByRole("toolbar", { name: "State" }).getByRole("button");
  const total = async () => (await states.allTextContents()).reduce((sum, chip) => sum + Number(/(\d+)$/.exec(chip)?.[1] ?? 0), 0);
  await expect.poll(total).toBe(calls);
  await only.click();
  await expect.poll(total).toBeGreaterThan(calls);
});

test("one person: everything of them on one line of time; somebody else is joined, taken apart, and it is taken back, after a reload too", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.open();
  await bench.drop(bench.file("theatre-phone.ab", practiceBackup()));
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("link", { name: /^conversations/ }).click();
  await page.getByRole("option", { name: /Ilse/ }).first().click();
  await page.getByRole("complementary", { name: "The conversation" }).getByRole("link", { name: /Ilse/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Ilse Marwitz");
  const what = page.getByRole("toolbar", { name: "What of it" });
  // 120 messages and every fourth of 400 calls; the card of the address book.
  for (const chip of ["messages 120", "calls 100", "address book 1"]) await expect(what.getByRole("button", { name: chip })).toBeVisible();
  const lines = page.getByRole("listbox", { name: "Time line" }).getByRole("option");
  await expect(lines.first()).toContainText("Thu, 7 May 2026");
  expect(
    (await new AxeBuilder({ page }).analyze()).violations.filter(({ impact }) => impact === "serious" || impact === "critical"),
  ).toEqual([]);
  await what.getByRole("button", { name: "address book 1" }).click();
  await expect(lines).toHaveCount(1);
  await expect(lines).toContainText("Ilse Marwitz · +40700000102");
  await what.getByRole("button", { name: /^address book/ }).click();
  // By words, and all that was erased into the tray.
  await page.keyboard.press("/");
  await page.keyboard.type("second wagon (16");
  await expect(lines).toHaveCount(1);
  await page.getByRole("textbox", { name: "Words in it" }).fill("");
  await expect(what.getByRole("button", { name: "messages 120" })).toBeVisible();
  const erased = Number(/erased ([\d,]+)/.exec((await what.getByRole("button", { name: /^erased/ }).textContent()) ?? "")?.[1]);
  await page.getByRole("button", { name: `All ${erased} erased into the tray` }).click();
  await expect(bench.tray()).toContainText(`${erased} chosen`);

  const who = page.getByRole("complementary", { name: "Who this is" });
  await page.getByRole("button", { name: "Is also…" }).click();
  await page.getByRole("dialog").getByRole("textbox").fill("oltm");
  const others = page.getByRole("dialog").getByRole("list", { name: "People" }).getByRole("button");
  await expect(others).toHaveCount(1);
  await others.click();
  await expect(what.getByRole("button", { name: "messages 240" })).toBeVisible();
  await expect(who).toContainText("joined by you");
  await page.reload();
  await expect(what.getByRole("button", { name: "messages 240" })).toBeVisible();
  await page.getByRole("button", { name: "Wrong person joined? Take apart…" }).click();
  await page.getByRole("dialog").getByRole("checkbox", { name: /Fenna/ }).check();
  await page.getByRole("dialog").getByRole("button", { name: "Take apart" }).click();
  await expect(what.getByRole("button", { name: "messages 120" })).toBeVisible();
  await expect(who).toContainText("kept apart by you");
  await expect(who).toContainText("+40700000103");
  await who.getByRole("button", { name: "Take back what you said" }).click();
  await expect(who).not.toContainText("kept apart by you");
  await expect(what.getByRole("button", { name: "messages 120" })).toBeVisible();
});
