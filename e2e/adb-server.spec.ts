import { execFileSync } from "node:child_process";
import { phoneOnCable, Served } from "../test/practice-phones.ts";
import { expect, test } from "./kit.ts";
import { adbServerPort, OWN_PLACE } from "./places.ts";

/** The machine's own adb server, run by the stock program, with a phone that it reached over TCP. */
const adb = (...args: string[]) => execFileSync("adb", ["-P", String(adbServerPort(OWN_PLACE)), ...args], { encoding: "utf8" });

test("a phone that this machine's own adb server holds is on the bench, and its shared storage is copied", async ({
  bench,
  kit,
  ticket,
}) => {
  const served = new Served();
  try {
    const phone = await phoneOnCable("tern-rooted", true);
    const serial = `127.0.0.1:${await served.adb(phone)}`;
    adb("start-server");
    adb("connect", serial);
    await bench.open();
    // The same serial lies in the kit, too, and only waits: the way that reaches further is the ticket's.
    await kit.take("tern-rooted");
    await kit.does("Plug the cable in");
    await expect(bench.page.getByRole("article", { name: "Tern One" })).toContainText("Waiting for its owner");
    const card = bench.page.getByRole("article").filter({ hasText: "adb server" });
    await expect(card.getByRole("status")).toHaveText("Ready");
    await expect(card).toContainText("Android 8.1.0");
    await card.getByRole("button", { name: "New ticket for it" }).click();
    await bench.page.getByRole("group", { name: "Locked?" }).getByRole("button", { name: "open", exact: true }).click();
    await ticket.copy("Take its shared storage");
    const hash = await ticket.scanCopy();
    expect(await ticket.copyOnDisk()).toBe(hash);
  } finally {
    adb("kill-server");
    served.close();
  }
});
