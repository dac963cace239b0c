import { hashOf, practiceBytes } from "../test/scanning.ts";
import { expect, test } from "./kit.ts";

/** One practice phone each, from the first talk to readable storage, or to the honest reason why there is nothing to be had. */
test.beforeEach(({ bench }) => bench.open());

test("healthy, debugging off: seven taps, the question, a copy, its scan; at the end everything is taken back", async ({
  bench,
  kit,
  ticket,
}) => {
  const { page } = bench;
  await kit.take("siskin-healthy");
  await ticket.intake("Corvane Siskin 3", { lock: "open" });
  await ticket.way(/^USB debugging 5/);
  await kit.does("Plug the cable in");
  await ticket.takeIn();
  await expect(ticket.state).toHaveText("Attached, but not answering");
  await expect(ticket.steps).toContainText("tap “Build number” 7 times");
  await expect(ticket.ticked()).toHaveCount(1);
  await expect(ticket.current()).toContainText("What usually is wrong");
  await kit.switchDebuggingOn();
  await expect(ticket.state).toHaveText("Waiting for its owner to allow this computer");
  // The same fingerprint on both sides.
  const fingerprint = await kit.screen.getByText(/^([0-9A-F]{2}:){15}[0-9A-F]{2}$/).textContent();
  await expect(ticket.current()).toContainText(fingerprint ?? "no fingerprint");
  await kit.tap("Refuse");
  await expect(kit.screen).not.toContainText("Allow this computer?");
  await ticket.current().getByRole("button", { name: "Ask again" }).click();
  await kit.tap("Allow");
  await expect(ticket.state).toHaveText("Ready");
  await expect(ticket.behind()).toHaveCount(5);
  await ticket.copy("Take its shared storage");
  const hash = await ticket.scanCopy();
  expect(await ticket.copyOnDisk()).toBe(hash);
  await expect(page.getByRole("list", { name: "Finds by kind" })).toContainText("photos26");
  await bench.goTo("Hand-over");
  await expect(page.getByRole("alert")).toContainText("debugging switched on, developer options shown, this computer allowed");
  await page.getByRole("link", { name: "To the logbook" }).click();
  const changes = page.getByRole("list", { name: "Changes" });
  await kit.tap(/Revoke allowed computers/);
  await page.getByRole("button", { name: "Check: does it ask again?" }).click();
  await expect(changes.getByLabel("taken back")).toHaveCount(1);
  await kit.tap("Refuse", "Developer options: on");
  await expect(changes.getByLabel("taken back")).toHaveCount(2);
  // No computer sees whether the menu still shows.
  await changes
    .getByRole("listitem")
    .filter({ hasText: "developer options shown" })
    .getByRole("button", { name: "I have seen it done" })
    .click();
  await expect(page.getByRole("main").getByRole("status")).toHaveText("Nothing is left to be taken back. Nothing was installed.");
});

test("touch dead: the glass does not answer, a mouse does", async ({ kit, ticket }) => {
  await kit.take("siskin-touch-dead");
  await ticket.intake("Corvane Siskin 3", { lock: "open", symptoms: ["touch dead"] });
  await ticket.way(/^Mouse/);
  await kit.tap("Settings");
  await expect(kit.screen).toContainText("Thursday");
  await kit.does("Put a mouse on");
  await kit.switchDebuggingOn();
  await kit.does("Plug the cable in");
  await ticket.takeIn();
  await kit.tap("Allow");
  await expect(ticket.state).toHaveText("Ready");
  await ticket.bench.goTo("Copy & scan");
  await expect(ticket.fromPhone.getByRole("button", { name: "Take its shared storage" })).toBeEnabled();
  // Apps' own files: only after a yes on the phone.
  const ask = ticket.fromPhone.getByRole("button", { name: "Ask for an app backup" });
  await ask.click();
  await expect(ticket.fromPhone).toContainText("full-screen question");
  await kit.tap("Do not back up");
  await expect(ticket.fromPhone.getByRole("alert")).toContainText("its question was refused");
  await ask.click();
  await kit.tap("Back up my data");
  // What came is a medium of the ticket at once, as it lies in the browser's own storage.
  const media = ticket.page.getByRole("list", { name: "Media of this ticket" });
  await expect(media).toContainText(/app-backup-\d+.*backup/);
  const head = await ticket.page.evaluate(async () => {
    const folder = await navigator.storage.getDirectory();
    for await (const [name, handle] of folder.entries())
      if (name.startsWith("app-backup-")) return (await (handle as FileSystemFileHandle).getFile()).slice(0, 24).text();
    return "";
  });
  expect(head).toBe("ANDROID BACKUP\n5\n1\nnone\n");
  await ticket.bench.scan();
  await expect(ticket.page.getByRole("list", { name: "Finds by kind" })).toBeVisible();
});

test("screen black: the key of the owner's computer opens it, nothing else does", async ({ bench, kit, ticket }) => {
  await kit.take("siskin-black");
  await ticket.intake("Corvane Siskin 3", { lock: "owner has the code", symptoms: ["screen black"], consent: true });
  await ticket.way(/^Computer that was allowed before/);
  await kit.does("Plug the cable in");
  await ticket.takeIn();
  await expect(ticket.state).toHaveText("Waiting for its owner to allow this computer");
  await expect(kit.screen).toHaveText("dark");
  const key = ticket.page.getByLabel("Choose the key file…");
  await key.setInputFiles(bench.file("adbkey.pub", `QAAAA${"A".repeat(700)} owner@wagon`));
  await expect(ticket.current().getByRole("alert")).toContainText("public half");
  await key.setInputFiles(await kit.thing(/adbkey/));
  await expect(ticket.state).toHaveText("Ready");
  await expect(ticket.behind()).toHaveCount(3);
});

test("stuck while starting: another build code is refused, the matching image brings it up again", async ({ kit, ticket }) => {
  await kit.take("tern-stuck");
  await ticket.intake("Corvane Tern One", { lock: "open", symptoms: ["stuck while starting"] });
  await ticket.way(/^Download mode/);
  await expect(kit.screen).toContainText("starting…");
  await expect(ticket.steps).toContainText(
    "Hold volume down + home + power together until the mode shows, then press volume up to accept.",
  );
  await kit.hold("power");
  await kit.hold("volume down", "home", "power");
  await expect(kit.screen).toContainText("Download mode?");
  await kit.hold("volume up");
  await kit.does("Plug the cable in");
  await ticket.takeIn();
  await expect(ticket.state).toHaveText("In download mode");
  const image = ticket.page.getByLabel("Choose the system image…");
  await image.setInputFiles(await kit.thing(/another build code/));
  await expect(ticket.current().getByRole("alert")).toContainText("one letter off is off");
  await image.setInputFiles(await kit.thing(/system image of its build code/));
  await kit.tap("Allow");
  await expect(ticket.state).toHaveText("Ready");
  await expect(ticket.behind()).toHaveCount(5);
  await ticket.page.getByRole("link", { name: "Logbook" }).click();
  await expect(ticket.page.getByRole("list", { name: "Changes" })).toContainText("system repaired: boot, system");
});

test("custom recovery present: its raw partition is read directly, and gives what was erased", { tag: "@long" }, async ({
  bench,
  kit,
  ticket,
}) => {
  await kit.take("tern-recovery");
  await ticket.intake("Corvane Tern One", { lock: "open", symptoms: ["touch dead"] });
  await ticket.way(/^Recovery mode/);
  await kit.hold("power");
  await kit.hold("volume up", "home", "power");
  await kit.does("Plug the cable in");
  await ticket.takeIn();
  await expect(ticket.state).toHaveText("In recovery");
  await bench.goTo("Copy & scan");
  await ticket.fromPhone.getByRole("button", { name: "Take partition userdata" }).click();
  await ticket.fromPhone.getByRole("button", { name: "Read it directly" }).click();
  await bench.scan();
  const kinds = bench.page.getByRole("list", { name: "Finds by kind" });
  await expect(kinds).toContainText(/photos\d+ \d\d erased/);
  // Away and reloaded: what was found stays, and the phone's storage opens by itself when it is back.
  await kit.does("Pull the cable");
  await expect(kit.panel.getByRole("button", { name: "Plug the cable in" })).toBeVisible();
  await bench.page.reload();
  const notice = bench.page.getByRole("status", { name: "Storage" });
  await expect(notice).toContainText("It is read directly off the phone");
  await expect(kinds).toContainText(/photos\d+ \d\d erased/);
  await kit.show("tern-recovery");
  await kit.does("Plug the cable in");
  await expect(notice).toHaveCount(0);
});

test("bootloader unlocked: a recovery is started for once, and its partition is copied bit for bit", { tag: "@long" }, async ({
  bench,
  kit,
  ticket,
}) => {
  await kit.take("tern-unlocked");
  await ticket.intake("Corvane Tern One", { lock: "open", symptoms: ["does not start"] });
  await ticket.way(/^Bootloader/);
  await kit.hold("volume down", "power");
  await kit.does("Plug the cable in");
  await ticket.takeIn();
  await expect(ticket.state).toHaveText("In bootloader");
  const image = ticket.page.getByLabel("Choose the recovery image…");
  await image.setInputFiles(bench.file("letter.img", "Dear Ana,"));
  await expect(ticket.current().getByRole("alert")).toContainText("no recovery image");
  await image.setInputFiles(await kit.thing(/recovery\.img/));
  await expect(ticket.state).toHaveText("In recovery");
  // Into a chosen file this time: what the picker would give is a file of the browser's private storage.
  await bench.page.evaluate(() =>
    Object.assign(window, {
      showSaveFilePicker: async () => (await navigator.storage.getDirectory()).getFileHandle("working-copy-chosen.img", { create: true }),
    }),
  );
  await bench.goTo("Copy & scan");
  await ticket.fromPhone.getByRole("button", { name: "Take partition userdata" }).click();
  await ticket.fromPhone.getByRole("button", { name: "Copy into a file, then scan…" }).click();
  expect(await ticket.scanCopy()).toBe(hashOf(practiceBytes()));
  expect(await ticket.copyOnDisk()).toBe(hashOf(practiceBytes()));
});

test("locked, the owner knows the code: not without consent, then by the code", async ({ bench, kit, ticket }) => {
  const { page } = bench;
  await kit.take("siskin-locked");
  await ticket.intake("Corvane Siskin 3", { lock: "owner has the code" });
  await kit.tap("2", "5", "8", "0");
  await ticket.letIn(kit);
  await bench.goTo("Copy & scan");
  await expect(ticket.fromPhone.getByRole("alert")).toContainText("Jubar does not open a locked phone without them.");
  await expect(ticket.fromPhone.getByRole("button")).toHaveCount(0);
  await bench.goTo("Intake");
  await page.getByLabel(/owner shown, and agrees/).check();
  await bench.goTo("Copy & scan");
  await ticket.fromPhone.getByRole("button", { name: "Take its shared storage" }).click();
  await expect(ticket.fromPhone.getByRole("button", { name: "Copy it, then scan", exact: true })).toBeVisible();
});

test("locked, nobody knows the code: only the card is left, and it is enough", async ({ bench, kit, ticket }) => {
  const { page } = bench;
  await kit.take("siskin-sealed");
  await ticket.intake("Corvane Siskin 3", { lock: "nobody has it", consent: true });
  await page.getByRole("group", { name: "Card inside?" }).getByRole("button", { name: "yes" }).click();
  await kit.does("Plug the cable in");
  await kit.tap("1", "1", "1", "1");
  await expect(kit.screen).toContainText("Locked");
  await bench.goTo("Ways in");
  await ticket.takeIn();
  await expect(ticket.state).toHaveText("Attached, but not answering");
  const ways = page.getByRole("group", { name: "All ways" });
  await expect(ways).toContainText("it can be unlocked: nobody has the code");
  await expect(ways.getByRole("button").first()).toContainText("Memory card in a reader");
  await bench.goTo("Copy & scan");
  await expect(ticket.fromPhone).toContainText("Nothing of it can be read yet.");
  await bench.drop(bench.card());
  await bench.scan();
  await expect(page.getByRole("list", { name: "Finds by kind" })).toContainText("erased");
});

test("rooted: elevated access is asked for, may be refused, and is given back", { tag: "@long" }, async ({ bench, kit, ticket }) => {
  const { page } = bench;
  await kit.take("tern-rooted");
  await ticket.intake("Corvane Tern One", { lock: "open" });
  await ticket.way(/rooted phone/);
  await kit.does("Plug the cable in");
  await ticket.takeIn();
  await kit.tap("Allow");
  await expect(ticket.state).toHaveText("Ready");
  const take = ticket.current().getByRole("button", { name: "Take elevated access" });
  await take.click();
  await expect(kit.screen).toContainText("Elevated access?");
  await kit.tap("Refuse");
  await expect(kit.screen).not.toContainText("Elevated access?");
  await expect(ticket.current().getByRole("alert")).toContainText("its question was refused");
  await take.click();
  await kit.tap("Allow");
  await expect(ticket.behind()).toHaveCount(5);
  await ticket.copy("Take partition userdata");
  expect(await ticket.scanCopy()).toBe(hashOf(practiceBytes()));
  await page.getByRole("link", { name: "Logbook" }).click();
  await page.getByRole("button", { name: "Give it back" }).click();
  await expect(page.getByRole("list", { name: "Changes" }).getByLabel("taken back")).toHaveCount(1);
});

test("a worn socket at 14 %: not below 20 %; the cable slips out in the middle, and the copy goes on where it was", async ({
  bench,
  kit,
  ticket,
}) => {
  await kit.take("siskin-loose");
  await ticket.intake("Corvane Siskin 3", { lock: "open" });
  await bench.goTo("Ways in");
  await kit.does("Plug the cable in");
  await ticket.takeIn();
  await kit.tap("Allow");
  await expect(ticket.state).toHaveText("Ready");
  await bench.goTo("Copy & scan");
  await expect(ticket.fromPhone.getByRole("alert")).toContainText("Battery at 14 %: charge it first.");
  await kit.does("Charge an hour");
  await ticket.copy("Take its shared storage");
  await expect(ticket.fromPhone.getByRole("alert")).toContainText(/look at the cable.* then go on/i);
  const reached = await ticket.fromPhone.getByLabel("Copied").getAttribute("value");
  expect(Number(reached)).toBeGreaterThan(0);
  expect(Number(reached)).toBeLessThan(1);
  await expect(kit.panel.getByRole("button", { name: "Plug the cable in" })).toBeVisible();
  await kit.does("Plug the cable in");
  await ticket.fromPhone.getByRole("button", { name: "Go on copying" }).click();
  const hash = await ticket.scanCopy();
  expect(await ticket.copyOnDisk()).toBe(hash);
  await expect(bench.page.getByRole("list", { name: "Finds by kind" })).toContainText("photos26");
});

test("a phone of another model than the ticket's is taken only when that is said", async ({ kit, ticket }) => {
  const { page } = ticket;
  await kit.take("siskin-healthy");
  await ticket.intake("Halvard Two", { lock: "open" });
  await ticket.bench.goTo("Ways in");
  await kit.switchDebuggingOn();
  await kit.does("Plug the cable in");
  await kit.tap("Allow");
  const place = page.getByRole("region", { name: "The phone of this ticket" });
  const take = place.getByRole("button", { name: /^This is the phone/ });
  await take.click();
  await expect(place.getByRole("alert")).toContainText("The ticket is about Halvard Two; this phone says it is Siskin 3");
  await place.getByRole("button", { name: "Leave it" }).click();
  await expect(place.getByRole("alert")).toHaveCount(0);
  await expect(place).toContainText("No phone is taken into this ticket yet.");
  await take.click();
  await place.getByRole("button", { name: "Take it all the same" }).click();
  await expect(ticket.state).toHaveText("Ready");
});

test("a copy that finds no room says so, is still known when one comes back to it, and goes on with room to the same hash", async ({
  bench,
  kit,
  ticket,
  baseURL,
}) => {
  const { page } = bench;
  await kit.take("siskin-healthy");
  await ticket.intake("Corvane Siskin 3", { lock: "open" });
  await bench.goTo("Ways in");
  await kit.switchDebuggingOn();
  await kit.does("Plug the cable in");
  await kit.tap("Allow");
  await ticket.takeIn();
  await expect(ticket.state).toHaveText("Ready");
  await bench.goTo("Copy & scan");
  await ticket.fromPhone.getByRole("button", { name: "Take its shared storage" }).click();
  const make = ticket.fromPhone.getByRole("button", { name: "Copy it, then scan", exact: true });
  await expect(make).toBeVisible();
  const protocol = await page.context().newCDPSession(page);
  const room = (quotaSize: number) => protocol.send("Storage.overrideQuotaForOrigin", { origin: new URL(baseURL ?? "").origin, quotaSize });
  const used = await page.evaluate(async () => (await navigator.storage.estimate()).usage ?? 0);
  await room(used + 6_000_000);
  await make.click();
  const said = ticket.fromPhone.getByRole("alert").filter({ hasText: /room|full/ });
  await expect(said).toBeVisible({ timeout: 30_000 });
  const strip = page.getByRole("navigation", { name: "Stations" });
  await expect(strip).toContainText(/copy (broken off|held) at \d+ %/);
  await bench.goTo("Finds");
  await bench.goTo("Copy & scan");
  await expect(said).toBeVisible();
  await room(500_000_000);
  await ticket.fromPhone.getByRole("button", { name: "Go on copying" }).click();
  const hash = await ticket.scanCopy();
  expect(await ticket.copyOnDisk()).toBe(hash);
  await expect(page.getByRole("list", { name: "Finds by kind" })).toContainText("photos26");
});
