import { spawn } from "node:child_process";
import { createServer } from "node:http";
import { expect, test } from "./bench.ts";

/** Runs `npm run demo` until it says something; ends it. */
async function demo(port: number): Promise<{ said: string; stop: () => Promise<number | null> }> {
  const work = spawn(process.execPath, ["scripts/demo.mjs", "--port", String(port)], { stdio: ["ignore", "pipe", "pipe"] });
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

test("on a busy port the demo command says so in a sentence and fails", async () => {
  const blocker = createServer();
  await new Promise<void>((ready) => blocker.listen(0, "127.0.0.1", ready));
  const address = blocker.address();
  const port = typeof address === "object" && address ? address.port : 0;
  const { said, stop } = await demo(port);
  expect(said).toContain(`Port ${port} is busy: end what runs there, or choose another one with JUBAR_PORT=4311.`);
  expect(await stop()).toBe(1);
  blocker.close();
});
