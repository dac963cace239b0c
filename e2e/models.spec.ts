import { readFileSync } from "node:fs";
import { expect, test } from "./kit.ts";

test("a model card is written, shows its keys where they are needed, and travels as a file; a broken file is refused by name", async ({
  bench,
  ticket,
}) => {
  const { page } = bench;
  await bench.open();
  await page.getByRole("link", { name: "Model cards" }).click();
  await page.getByRole("button", { name: "New card" }).click();
  const form = page.getByRole("form", { name: "Model card" });
  await form.getByRole("button", { name: "Keep the card" }).click();
  await expect(form.getByRole("alert").first()).toHaveText("Name the maker.");
  await form.getByLabel("maker").fill("Halvard");
  await form.getByLabel(/^model/).fill("Two");
  const recovery = form.getByRole("group", { name: /^keys of recovery mode/ });
  await recovery.getByRole("button", { name: "volume up" }).click();
  await recovery.getByRole("button", { name: "volume down" }).click();
  await form.getByLabel(/^build codes/).fill("H2.1\nH2.2");
  await form.getByRole("button", { name: "Keep the card" }).click();
  const card = page.getByRole("listitem").filter({ hasText: "Halvard Two" });
  await expect(card).toContainText("H2.1, H2.2");
  const saving = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export" }).click();
  const path = await (await saving).path();
  const file = JSON.parse(readFileSync(path, "utf8"));
  expect(file).toMatchObject({
    version: 1,
    cards: [{ maker: "Halvard", model: "Two", modes: { recovery: { hold: ["power", "volume down"] } } }],
  });

  await page.getByRole("button", { name: "Remove Two" }).click();
  await expect(card).toHaveCount(0);
  const chooser = page.getByLabel("A file of model cards");
  file.cards.push({ ...file.cards[0], model: "Three", keysAt: { volume: "top", power: "left", home: false } });
  await chooser.setInputFiles(bench.file("broken.json", JSON.stringify(file)));
  await expect(page.getByRole("status")).toContainText("Card 2 is not complete: keysAt volume");
  await chooser.setInputFiles(path);
  await expect(card).toContainText("power + volume down");

  await page.getByRole("link", { name: "To the bench" }).click();
  await ticket.intake("Halvard Two", { lock: "open", symptoms: ["touch dead"] });
  await bench.goTo("Ways in");
  await page.getByText(/closed, and why/).click();
  await page
    .getByRole("group", { name: "All ways" })
    .getByRole("button", { name: /^Recovery mode/ })
    .click();
  await expect(ticket.steps).toContainText("Hold power + volume down together");
});
