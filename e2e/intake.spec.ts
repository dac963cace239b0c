import { expect, test } from "./bench.ts";

test("a day that starts with a person: intake, advice that follows the answers, then the card, its scan and its finds", async ({
  bench,
}) => {
  const { page } = bench;
  await bench.open();
  await page.getByRole("button", { name: "New ticket", exact: true }).click();
  const strip = page.getByRole("navigation", { name: "Stations" });
  await expect(strip).toContainText("4 answers open");
  await page.getByLabel("Customer").fill("Fenna Oltmans");
  await page.getByLabel("Phone or e-mail").fill("fenna@example.org");
  await page.getByLabel("Device").fill("Halvard Two");
  await page.getByLabel("Android").fill("12");
  const answer = (question: string, name: string) =>
    page.getByRole("group", { name: question }).getByRole("button", { name, exact: true }).click();
  const now = page.getByRole("region", { name: "Do this now" });
  const expected = page.getByRole("region", { name: "What can be expected" }).getByRole("listitem");

  await answer("What is wrong with it?", "touch dead");
  await answer("Locked?", "owner has the code");
  await expect(now).toContainText("Proof of ownership and consent are missing.");
  await page.getByLabel(/owner shown, and agrees/).check();
  await expect(now).not.toContainText("consent");
  await page.getByLabel("From").fill("2026-05-02");
  await page.getByLabel("To", { exact: true }).fill("2026-05-01");
  await page.getByRole("button", { name: "Add this want" }).click();
  await expect(page.getByRole("alert")).toHaveText("It ends before it begins.");
  await page.getByLabel("To", { exact: true }).fill("2026-05-09");
  await page.getByLabel("Which words").fill("the spring tour");
  await page.getByRole("button", { name: "Add this want" }).click();
  await expect(page.getByRole("list", { name: "wants" }).getByRole("listitem")).toHaveText([/^photos 2–9 May · the spring tour/]);

  await answer("How was it lost?", "deleted by hand");
  await page.getByLabel("When?").fill("2026-05-12");
  await expect(page.getByRole("region", { name: "Look here first" })).toContainText("over since 11 Jun, most likely");
  await expect(expected.filter({ hasText: "phone" }).first()).toContainText("small copies");
  await expect(expected.filter({ hasText: "phone" }).first()).toContainText("file-based encryption");
  await answer("Used since?", "a little");
  await answer("Card inside?", "yes");
  await expect(now).toContainText("Take the memory card out before anything else.");
  await expect(expected.filter({ hasText: "memory card" })).toContainText("most");
  await page.getByLabel("Battery").fill("14");
  await expect(now).toContainText("Battery at 14 %: charge it first.");
  await expect(strip).toContainText("complete");

  // A reset phone without its card: said at once, with the reason.
  await answer("How was it lost?", "factory reset");
  await answer("Card inside?", "no");
  await expect(page.getByRole("region", { name: "Nothing to expect" })).toContainText(
    "a factory reset destroyed the key of its encryption",
  );
  await answer("How was it lost?", "deleted by hand");
  await answer("Card inside?", "yes");

  // Everything is kept; on paper it is one page of its own.
  await page.reload();
  await expect(page.getByLabel("Customer")).toHaveValue("Fenna Oltmans");
  await expect(page.getByRole("group", { name: "Locked?" }).getByRole("button", { name: "owner has the code" })).toHaveAttribute(
    "aria-pressed",
    "true",
  );
  await page.emulateMedia({ media: "print" });
  const paper = page.getByRole("article");
  await expect(paper).toContainText("Ticket 0101");
  await expect(paper).toContainText("photos 2–9 May · the spring tour");
  await expect(page.getByLabel("Customer")).toBeHidden();
  await page.emulateMedia({ media: null });

  // The card is the gentlest way; the rest follows from what is known of the phone.
  await page.getByRole("link", { name: "To the ways in" }).click();
  await expect(page.getByRole("region", { name: "Before anything else" })).toContainText("Battery at 14 %: charge it first.");
  await expect(strip).toContainText("2 open");
  const ways = page.getByRole("group", { name: "All ways" });
  await expect(ways.getByRole("listitem").first()).toContainText("Memory card in a reader");
  await ways.getByRole("button", { name: /^Recovery mode with debugging/ }).click();
  const chosen = page.getByRole("region", { name: "Recovery mode with debugging" });
  await expect(chosen).toContainText("Something is not known yet");
  for (const fact of ["a recovery with a shell is on it", "its bootloader is unlocked"])
    await page.getByRole("group", { name: fact }).getByRole("button", { name: "no" }).click();
  await expect(chosen).toContainText("This way is closed");
  await ways.getByRole("button", { name: /^Mouse, or adapter with a screen/ }).click();
  await expect(page.getByRole("region", { name: "Mouse, or adapter" }).getByRole("list", { name: "Steps" })).toContainText(
    "put a mouse on an OTG hub",
  );
  await ways.getByRole("button", { name: /^Memory card in a reader/ }).click();
  await page.getByRole("region", { name: "Memory card in a reader" }).getByRole("link", { name: "To Copy & scan" }).click();
  await expect(page.getByText("This ticket has no storage yet.")).toBeVisible();
  await bench.drop(bench.file("letter.txt", "Dear Ilse"));
  await expect(page.getByRole("alert")).toContainText("letter.txt is no disk image");
  await bench.drop(bench.card());
  await bench.scan();
  await bench.goTo("Finds");
  // No file is called "the spring tour": the photos of these days are shown all the same, and the chip says that none answers by its words.
  const want = page.getByRole("list", { name: "wants" }).getByRole("button").first();
  await expect(want).toHaveText(/^photos 2–9 May · the spring tour· [1-9]\d*none by these words$/);
  await expect.poll(() => bench.shown()).toBeGreaterThan(20);
  await bench.showEverything();
  await expect.poll(() => bench.shown()).toBe(73);
  await page.reload();
  await expect.poll(() => bench.shown()).toBe(73);
});

test("a ticket is found again on the bench, and forgotten when that is wanted", async ({ bench }) => {
  const { page } = bench;
  await bench.open();
  await page.getByRole("button", { name: "New ticket", exact: true }).click();
  await page.getByLabel("Customer").fill("Fenna Oltmans");
  await page.getByLabel("Device").fill("Halvard Two");
  await page.getByLabel("Which words").fill("the wedding");
  await page.getByRole("button", { name: "Add this want" }).click();
  await page.getByRole("link", { name: "To the bench" }).click();
  const row = page.getByRole("row").filter({ hasText: "Fenna Oltmans" });
  await expect(row).toContainText("Intake · no storage yet");
  await page.keyboard.press("/");
  await page.keyboard.type("halvard wedding");
  await expect(row).toBeVisible();
  await page.keyboard.type(" nothing");
  await expect(page.getByText("No open job speaks of")).toBeVisible();
  await page.getByLabel("Search all jobs").fill("");
  await row.getByRole("button", { name: /^Remove ticket/ }).click();
  await page.getByRole("dialog").getByRole("button", { name: "Forget it" }).click();
  await expect(page.getByText("No open job. Begin with a new ticket")).toBeVisible();
});
