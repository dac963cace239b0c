import { spawn } from "node:child_process";
import { createServer } from "node:http";
import { expect, test } from "./bench.ts";

/** Runs `npm run demo`, or `npm start`, until it says something; ends it. */
async function demo(port: number, script = "demo"): Promise<{ said: string; stop: () => Promise<number | null> }> {
  const work = spawn(process.execPath, [`scripts/${script}.mjs`, "--port", String(port)], { stdio: ["ignore", "pipe", "pipe"] });
  let said = "";
  const ended = new Promise<number | null>((done) => work.once("exit", done));
  const spoken = new Promise<void>((done) => {
    for (const stream of [work.stdout, work.stderr])
      stream.on("data", (piece) => {
        said += piece;
        if (/http:|busy/.test(said)) done();
      });
  });
  await Promise.race([spoken, ended]);
  return {
    said,
    stop: () => {
      work.kill("SIGTERM");
      return ended;
    },
  };
}

test("the demo command prints an address where the bench stands with the practice card on it", async ({ page }) => {
  const { said, stop } = await demo(0);
  const [address] = /http:\/\/127\.0\.0\.1:\d+\//.exec(said) ?? [""];
  await page.goto(address);
  await expect(page.getByText("theatre-card.img · 50 MB")).toBeVisible();
  expect(await stop()).toBe(0);
});

test("the command for real work opens a bench without practice things", { tag: "@long" }, async ({ page }) => {
  const { said, stop } = await demo(0, "start");
  await page.goto(/http:\/\/127\.0\.0\.1:\d+\//.exec(said)?.[0] ?? "");
  await expect(page.getByRole("heading", { name: "Jobs" })).toBeVisible();
  await expect(page.getByText("Nothing is plugged in.")).toBeVisible();
  await expect(page.getByRole("button", { name: "Practice kit" })).toHaveCount(0);
  await expect(page.getByRole("button", { name: "Start a job with it" })).toHaveCount(0);
  expect(await stop()).toBe(0);
});

test("on a busy port the demo command says so in a sentence and fails", { tag: "@long" }, async () => {
  const blocker = createServer();
  await new Promise<void>((ready) => blocker.listen(0, "127.0.0.1", ready));
  const address = blocker.address();
  const port = typeof address === "object" && address ? address.port : 0;
  const { said, stop } = await demo(port);
  expect(said).toContain(`Port ${port} is busy: end what runs there, or choose another one with JUBAR_PORT=4311.`);
  expect(await stop()).toBe(1);
  blocker.close();
});
