// npm run screenshots: one picture of each main view, from the demo data, into docs/screenshots/.
import { spawn, spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { bin, ENVIRONMENT, fail, HOME, needPackages, needTools, show } from "./lib/set-up.mjs";

needPackages();
needTools();
if (show(bin("vite"), ["build", "--logLevel", "error"]) !== 0) fail("The application could not be built: the reason stands above.");
const PORT = 27_320;
const folder = join(HOME, "docs", "screenshots");
mkdirSync(folder, { recursive: true });
const server = spawn(
  process.execPath,
  ["--import", "tsx", "server/main.ts", "--port", String(PORT), "--media", "demo/practice-media.json", "--practice"],
  { cwd: HOME, env: ENVIRONMENT, stdio: ["ignore", "pipe", "inherit"] },
);
await new Promise((ready) => server.stdout.once("data", ready));

const unpacked = mkdtempSync(join(tmpdir(), "jubar-pictures-"));

const { chromium } = await import("@playwright/test");
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.addInitScript(() => {
  Object.assign(window, {
    showDirectoryPicker: async () => (await navigator.storage.getDirectory()).getDirectoryHandle("given back", { create: true }),
  });
});
const picture = async (name) => {
  // Previews are drawn after the rest.
  await page.waitForTimeout(900);
  await page.mouse.move(1279, 799);
  await page.screenshot({ path: join(folder, `${name}.png`) });
};
const button = (name) => page.getByRole("button", { name });
const station = (name) => page.getByRole("navigation", { name: "Stations" }).getByRole("link", { name });

try {
  await page.goto(`http://127.0.0.1:${PORT}/`);
  await button("Start a job with it").first().click();
  const status = page.getByRole("region", { name: "Progress" }).getByRole("status");
  // The card is small: on a fast machine its scan is over before it can be paused, and is begun again.
  for (let attempt = 0; attempt < 12; attempt++) {
    await button(/^(Start the scan|Scan again)$/).click();
    const isHalfWay = await status
      .filter({ hasText: /^[1-9]\d % / })
      .or(status.filter({ hasText: /^[1-9]\d %\d/ }))
      .first()
      .waitFor({ timeout: 8000 })
      .then(() => true)
      .catch(() => false);
    // It was over before it was seen.
    if (!isHalfWay) continue;
    await button("Pause")
      .click({ timeout: 1000 })
      .catch(() => {});
    await button(/^(Go on|Scan again)$/).waitFor();
    if (await button("Go on").isVisible()) break;
  }
  await picture("copy-and-scan");
  // A quick machine is never caught half-way.
  if (await button("Go on").isVisible()) await button("Go on").click();
  await page.getByRole("region", { name: "Progress" }).getByText("done in").waitFor();
  await page.getByRole("link", { name: "To the bench" }).click();
  await button(/^0101$/).click();
  await station("Finds").click();
  const finds = page.getByRole("listbox", { name: "Finds" }).getByRole("option");
  // It opens on the first want: photos of the days of the loss.
  await page.getByRole("list", { name: "wants" }).getByRole("button", { pressed: true }).waitFor();
  await button(/^erased/).click();
  await button(/^whole/).click();
  for (const at of [1, 2, 5]) {
    await finds.nth(at).click();
    await page.keyboard.press("Space");
  }
  await picture("finds");
  await button("Choose all").click();
  await button("Show all").click();
  await button(/^damaged/).click();
  await finds.nth(1).click();
  await page.keyboard.press("Enter");
  await picture("viewer");
  for (const key of ["s", "PageDown", "s", "PageDown"]) await page.keyboard.press(key);
  await page.locator("figure").nth(2).waitFor();
  await picture("side-by-side");
  await page.keyboard.press("Escape");
  await page.getByRole("link", { name: "Hand over" }).click();
  await button("Choose the folder and write").click();
  await page.getByText("arrived intact").waitFor();
  await picture("hand-over");
  await page.getByRole("link", { name: "To the bench" }).click();
  await page.getByRole("article").filter({ hasText: "theatre-phone.ab" }).getByRole("button").click();
  await button(/^Start the scan$/).click();
  await page.getByRole("region", { name: "Progress" }).getByText("done in").waitFor();
  await station("Finds").click();
  await page.getByRole("link", { name: /^photos and files/ }).click();
  await button("Show as a list").click();
  await page.getByRole("option", { name: /^mmssms\.db,/ }).click();
  await page.getByRole("link", { name: "Open its tables" }).click();
  const rows = page.getByRole("grid").getByRole("row");
  await rows.nth(1).waitFor();
  await button(/^erased/).click();
  await rows.filter({ hasText: "erased" }).nth(3).click();
  await picture("tables");
  await page.getByRole("link", { name: "To the bench" }).click();
  await page.getByRole("article").filter({ hasText: "tern-userdata.img" }).getByRole("button").click();
  await button(/^Start the scan$/).click();
  await page.getByRole("region", { name: "Progress" }).getByText("done in").waitFor();
  await station("Finds").click();
  await page
    .getByRole("listbox", { name: "Conversations" })
    .getByRole("option", { name: /Ana Dorin/ })
    .first()
    .click();
  const message = page.getByRole("listbox", { name: "Messages" }).getByRole("option").filter({ hasText: "erased" }).last();
  await message.click();
  await picture("conversation");
  await page.getByRole("link", { name: "Everything of this person" }).click();
  await page.getByRole("listbox", { name: "Time line" }).getByRole("option").first().waitFor();
  await picture("person");
  await page.getByRole("button", { name: "Back" }).click();
  await button(/^Only messages with Ana/).click();
  await page.getByRole("link", { name: /^contacts/ }).click();
  await page.getByRole("option", { name: /Bela Korda/ }).click();
  await picture("contacts");
  await page.getByRole("link", { name: /^calls/ }).click();
  await page.getByRole("listbox", { name: "Calls" }).getByRole("option").filter({ hasText: "erased" }).first().click();
  await picture("calls");
  // A messenger that nobody knows, in a shape that chance chose.
  const odd = join(unpacked, "store.db");
  const make = `import { writeFileSync } from "node:fs"; import { messenger } from "./test/messengers.ts"; writeFileSync(${JSON.stringify(odd)}, messenger(4).bytes);`;
  spawnSync(process.execPath, ["--import", "tsx", "--input-type=module", "-e", make], { stdio: "inherit" });
  await page.getByRole("link", { name: "To the bench" }).click();
  await page.getByLabel("Disk image").setInputFiles(odd);
  await button(/^Start the scan$/).click();
  await page.getByRole("region", { name: "Progress" }).getByText("done in").waitFor();
  await station("Finds").click();
  await page.getByRole("link", { name: /^conversations/ }).click();
  await page.getByRole("listbox", { name: "Conversations" }).getByRole("option").first().click();
  await page.getByRole("listbox", { name: "Messages" }).getByRole("option").last().click();
  await page.getByRole("link", { name: "How this app is read" }).click();
  await page.getByRole("listbox", { name: "Messages as they read" }).getByRole("option").first().waitFor();
  await picture("meaning");
  await page.getByRole("link", { name: "To the bench" }).click();
  await button("New ticket").click();
  await page.getByLabel("Customer").fill("Fenna Oltmans");
  await page.getByLabel("Phone or e-mail").fill("fenna@example.org");
  await page.getByLabel("Device").fill("Corvane Siskin 3");
  await page.getByLabel("Android").fill("9");
  await page.getByLabel("Battery").fill("64");
  const answers = ["glass cracked", "touch dead", "owner has the code", "deleted by hand", "a little"];
  for (const answer of answers) await page.getByRole("button", { name: answer, exact: true }).click();
  await page.getByRole("checkbox").check();
  await page.getByRole("group", { name: "Card inside?" }).getByRole("button", { name: "yes" }).click();
  await page.getByLabel("When?").fill("2026-05-12");
  await page.getByLabel("From").fill("2026-05-02");
  await page.getByLabel("To", { exact: true }).fill("2026-05-09");
  await page.getByLabel("Which words").fill("the spring tour");
  await button("Add this want").click();
  await picture("intake");
  await page.getByRole("link", { name: "To the ways in" }).click();
  await button("Practice kit").click();
  const kit = page.getByRole("complementary", { name: "Practice kit" });
  const screen = kit.getByRole("region", { name: "Screen of the practice phone" });
  const taps = async (...names) => {
    for (const name of names) await screen.getByRole("button", { name, exact: true }).click();
  };
  const build = screen.getByRole("button", { name: /Build number/ });
  await kit.getByRole("combobox").selectOption("siskin-touch-dead");
  await kit.getByRole("button", { name: "Put a mouse on" }).click();
  await kit.getByRole("button", { name: "Plug the cable in" }).click();
  await page.getByRole("button", { name: /^This is the phone/ }).click();
  await page
    .getByRole("group", { name: "All ways" })
    .getByRole("button", { name: /^Mouse/ })
    .click();
  await taps("Settings", "About phone");
  for (let tap = 0; tap < 7; tap++) await build.click();
  await taps("Back", "Developer options", "USB debugging: off", "OK");
  await screen.getByText("Allow this computer?").waitFor();
  await page.getByText("The phone waits for a yes").waitFor();
  await picture("ways-in");
  await taps("Allow");
  await page.getByRole("region", { name: "The phone of this ticket" }).getByText("Ready").waitFor();
  await station("Copy & scan").click();
  await button("Take its shared storage").click();
  await button("Copy it, then scan").click();
  await page.getByRole("region", { name: "Progress" }).getByText("done in").waitFor();
  await station("Logbook").click();
  await picture("logbook");
  await kit.getByRole("combobox").selectOption("tern-unlocked");
  for (const key of ["volume down", "power"]) await kit.getByRole("button", { name: key, exact: true }).click();
  await kit.getByRole("button", { name: "Hold" }).click();
  await kit.getByRole("button", { name: "Plug the cable in" }).click();
  await page.getByRole("link", { name: "To the bench" }).click();
  await page.getByText("In bootloader").waitFor();
  await picture("practice-kit");
  await kit.getByRole("button", { name: "Close the practice kit" }).click();
  await picture("bench");
  await page.goto(`http://127.0.0.1:${PORT}/`);
  // The workshop's card is the last on the bench.
  await button("Start a job with it").last().click();
  await button("Start the scan").click();
  await page.getByRole("region", { name: "Progress" }).getByText("done in").waitFor();
  await station("Finds").click();
  await page.getByRole("list", { name: "wants" }).getByRole("button", { pressed: true }).click();
  await button("Show as a wall").click();
  const look = async (name) => {
    await page.getByRole("option", { name }).dblclick();
    await page.getByRole("dialog").waitFor();
  };
  await look(/^rehearsal crocodile/);
  await page.locator("dialog video").evaluate(
    (film) =>
      new Promise((done) => {
        film.addEventListener("seeked", done, { once: true });
        film.currentTime = 4;
      }),
  );
  await picture("video");
  await page.keyboard.press("Escape");
  await look(/^programme\.pdf/);
  await page.getByRole("textbox", { name: "Words in it" }).fill("moon");
  await page.keyboard.press("Enter");
  await page.getByText("on page 2").waitFor();
  await picture("document");
  await page.keyboard.press("Escape");
  await button("Evening")
    .or(button(/theme|evening/i))
    .first()
    .click();
  await picture("finds-evening");
} finally {
  await browser.close();
  server.kill();
  rmSync(unpacked, { recursive: true });
}
