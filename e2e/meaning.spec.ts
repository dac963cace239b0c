import { readFileSync } from "node:fs";
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import initSqlJs from "sql.js";
import { MappingSchema } from "../core/stores/mapping/mapping.ts";
import { messenger } from "../test/messengers.ts";
import { expect, test } from "./bench.ts";

/** One that is offered only, and wrongly: nothing in it says which of two addresses is the sender. */
const made = messenger(1);

const NAMES =
  "Ansa Vask,Brendel Tarnow,Corvin Ryle,Delphine Quist,Hedwig Moll,Lorcan Zorn,Mirela Bellamy,Nedda Achter,Odran Ostrander,Jorun Marl".split(
    ",",
  );

const seriously = async (page: Page) =>
  (await new AxeBuilder({ page }).analyze()).violations.filter(({ impact }) => impact === "serious" || impact === "critical");

test("an unknown messenger is put right by hand: its messages, erased ones too, are read so from then on", async ({ bench }) => {
  const { page } = bench;
  await bench.open();
  await bench.choose(bench.file("store.db", made.bytes));
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("link", { name: /^conversations 0 · 1 to look at/ }).click();
  const offered = page.getByRole("region", { name: "May be messages" });
  await expect(offered).toContainText("1 database may hold messages");
  await offered.getByRole("link").click();

  const means = page.getByRole("region", { name: "What this database means" });
  const reads = page.getByRole("region", { name: "So it reads" });
  await expect(means.getByRole("row")).not.toHaveCount(1);
  const roles = means.getByRole("combobox", { name: /^What / });
  /** The column that is this, as soon as it was read anew. */
  const roleAt = async (role: string) => {
    const at = async () => (await Promise.all((await roles.all()).map((one) => one.inputValue()))).indexOf(role);
    await expect.poll(at).not.toBe(-1);
    return roles.nth(await at());
  };
  // A message that came in stands on the owner's side.
  const came = made.said.find(
    ({ erased, direction, text }) =>
      !erased && direction === "in" && text.length > 20 && made.said.filter((one) => one.text === text).length === 1,
  );
  const bubble = reads.getByRole("option").filter({ hasText: came?.text ?? "" });
  const talks = reads.getByRole("combobox", { name: "Conversation" });
  const title = await talks
    .locator("option")
    .filter({ hasText: came?.talk.members[0]?.name ?? "" })
    .first()
    .textContent();
  await talks.selectOption({ label: title?.trim() ?? "" });
  await expect(bubble.first()).toHaveClass(/ml-auto/);
  expect(await seriously(page)).toEqual([]);
  // Something that cannot be read is said to read as nothing, and taken back.
  const text = await roleAt("text");
  await text.selectOption("none");
  await expect(reads).toContainText("Nothing reads as messages so.");
  await expect(page.getByRole("button", { name: /^Keep and read/ })).toBeDisabled();
  await text.selectOption("text");
  // With the keyboard: the sender's column is whom it is to.
  const sender = await roleAt("sender");
  await sender.focus();
  await sender.selectOption("conversation");
  await expect(bubble.first()).toHaveClass(/mr-auto/);
  await expect(reads.getByText("erased messages that read")).toBeVisible();

  const saved = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save as a file…" }).click();
  const file = await (await saved).path();
  expect(MappingSchema.parse(JSON.parse(readFileSync(file, "utf8"))).direction).toMatchObject({ by: "pair" });

  await page.getByRole("button", { name: /^Keep and read 980 messages/ }).click();
  await expect(page).toHaveURL(/finds\/conversations$/);
  await expect(offered).toHaveCount(0);
  const list = page.getByRole("listbox", { name: "Conversations" });
  await expect(list.getByRole("option").first()).toBeVisible();
  const words = came?.text.split(" ").slice(0, 5).join(" ") ?? "";
  await page.keyboard.press("/");
  await page.keyboard.type(words);
  const thread = page.getByRole("listbox", { name: "Messages" });
  const hit = thread.getByRole("option").filter({ hasText: came?.text ?? "" });
  await expect(hit.first()).toHaveClass(/mr-auto/);
  await expect(page.getByText(/, \d+ erased/).first()).toBeVisible();
  await page.reload();
  await expect(list.getByRole("option").first()).toBeVisible();

  // On another ticket it is read at once.
  await page.getByRole("link", { name: "To the bench" }).click();
  await bench.choose(bench.file("another.db", made.bytes));
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("link", { name: /^conversations/ }).click();
  await expect(list.getByRole("option").first()).toBeVisible();
  await expect(offered).toHaveCount(0);
});

test("a file that is no mapping is refused by name; no messenger takes its messages out, and a saved mapping brings them back", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.open();
  await bench.choose(
    bench.file("chat.db", messenger(77, { direction: "flag", talk: "number", people: true, rooms: true, count: 300 }).bytes),
  );
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("link", { name: /^conversations/ }).click();
  const list = page.getByRole("listbox", { name: "Conversations" });
  await list.getByRole("option").first().click();
  await page.getByRole("listbox", { name: "Messages" }).getByRole("option").first().click();
  await page.getByRole("link", { name: "How this app is read" }).click();
  const becomes = page.getByRole("region", { name: "What becomes of it" });
  const saved = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save as a file…" }).click();
  const file = await (await saved).path();
  await page.getByLabel("Mapping file").setInputFiles(bench.file("letter.json", "Dear Jubar"));
  await expect(becomes.getByRole("alert")).toContainText("letter.json is no mapping");
  await page.getByLabel("Mapping file").setInputFiles(bench.file("half.json", '{"shape":1,"name":"half"}'));
  await expect(becomes.getByRole("alert")).toContainText("half.json is no mapping: app");
  await page.getByRole("button", { name: "It is no messenger" }).click();
  await expect(becomes.getByRole("status")).toContainText("its messages are taken out");
  await page.getByRole("link", { name: "Conversations", exact: true }).click();
  await expect(page.getByText("No conversation was found yet.")).toBeVisible();
  await page.goBack();
  await expect(page.getByText("You said that it is no messenger.")).toBeVisible();
  await page
    .getByLabel("Mapping file")
    .setInputFiles({ name: "chat.mapping.json", mimeType: "application/json", buffer: readFileSync(file) });
  await expect(page).toHaveURL(/finds\/conversations$/);
  await expect(list.getByRole("option").first()).toBeVisible();
});

test("hostile texts: scripts, turned writing, a message of 100 KB, names of 10,000 letters: nothing runs, nothing hangs, the page stays whole", async ({
  bench,
}) => {
  const { page } = bench;
  const script = `<img src=x onerror="window.hurt=1"><script>window.hurt=1</script><a href="javascript:window.hurt=1">x</a>`;
  const long = `${script} ${"lantern ".repeat(12_500)}`;
  const name = `${"N".repeat(10_000)}\u202Egnol`;
  const SQL = await initSqlJs();
  const database = new SQL.Database();
  database.run(`CREATE TABLE friend(id INTEGER PRIMARY KEY, name TEXT, number TEXT);
    CREATE TABLE room(id INTEGER PRIMARY KEY, title TEXT);
    CREATE TABLE note(id INTEGER PRIMARY KEY, room INTEGER, friend INTEGER, mine INTEGER, sent INTEGER, words TEXT);`);
  for (let id = 1; id <= 12; id++) {
    database.run("INSERT INTO friend VALUES(?,?,?)", [id, id === 1 ? name : id === 2 ? script : NAMES[id - 3], `+44770090${1000 + id}`]);
    database.run("INSERT INTO room VALUES(?,?)", [id, id === 1 ? name : id === 2 ? `\u202E${script}` : `The wagon and its lamp ${id}`]);
  }
  for (let id = 1; id <= 600; id++) {
    const room = 1 + (id % 12);
    const isMine = (id * 7919) % 7 < 3;
    const text =
      id % 50 === 7
        ? long
        : id % 50 === 8
          ? `\u202E${script}\u0000`
          : `We meet at the wagon ${id}, bring the lamp and rope ${(id * 7919) % 997}`;
    database.run("INSERT INTO note VALUES(?,?,?,?,?,?)", [id, room, isMine ? null : room, isMine ? 1 : 0, 1_746_000_000 + id * 977, text]);
  }
  const bytes = database.export();
  database.close();
  await bench.open();
  await bench.choose(bench.file("hostile.db", bytes));
  await bench.scan();
  await bench.goTo("Finds");
  await page.getByRole("link", { name: /^conversations/ }).click();
  const list = page.getByRole("listbox", { name: "Conversations" });
  await expect(list.getByRole("option").first()).toBeVisible();
  const thread = page.getByRole("listbox", { name: "Messages" });
  for (const one of (await list.getByRole("option").all()).slice(0, 6)) {
    await one.click();
    await expect(thread.getByRole("option").last()).toBeVisible();
    await thread.getByRole("option").last().click();
  }
  await page.keyboard.press("/");
  await page.keyboard.type("onerror lantern");
  await expect(thread.locator("mark").first()).toBeVisible();
  await thread
    .getByRole("option")
    .filter({ has: page.locator("mark") })
    .first()
    .click();
  await page.getByRole("link", { name: "How this app is read" }).click();
  await expect(page.getByRole("listbox", { name: "Messages as they read" }).getByRole("option").first()).toBeVisible();
  expect(await page.evaluate(() => (window as unknown as { hurt?: number }).hurt)).toBeUndefined();
  // Nothing pushes the page wider or higher than the window.
  const overflow = await page.evaluate(() => [
    document.documentElement.scrollWidth - innerWidth,
    document.documentElement.scrollHeight - innerHeight,
  ]);
  expect(overflow).toEqual([0, 0]);
});
