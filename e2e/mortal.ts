import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { join } from "node:path";
import { type Browser, type BrowserContext, chromium, type Page, type Response } from "@playwright/test";

/** A browser of its own, with a profile on the disk, that can be killed as a power cut kills it. */
export class Mortal {
  readonly #profile: string;
  /** Runs in each page before anything of it does. */
  readonly #first: () => void;
  /** Told of each answer that whatever page or worker got. */
  readonly #answered: (response: Response) => void;
  #process: ChildProcess | null = null;
  #browser: Browser | null = null;

  constructor(folder: string, first: () => void, answered: (response: Response) => void) {
    this.#profile = mkdtempSync(join(folder, "profile-"));
    this.#first = first;
    this.#answered = answered;
  }

  async open(address: string): Promise<Page> {
    const args = [
      "--headless=new",
      "--no-sandbox",
      `--user-data-dir=${this.#profile}`,
      "--remote-debugging-port=0",
      "--disable-background-networking",
      "--disable-sync",
    ];
    const process = spawn("/usr/bin/chromium", [...args, "about:blank"], { detached: true, stdio: ["ignore", "ignore", "pipe"] });
    this.#process = process;
    const endpoint = await new Promise<string>((found) => {
      let told = "";
      process.stderr?.on("data", (piece: Buffer) => {
        told += piece;
        const [, address = null] = /DevTools listening on (ws:\S+)/.exec(told) ?? [];
        if (address) found(address);
      });
    });
    this.#browser = await chromium.connectOverCDP(endpoint);
    const context = this.#context();
    await context.addInitScript(this.#first);
    context.on("response", this.#answered);
    return this.#show(context.pages()[0] ?? (await context.newPage()), address);
  }

  #context(): BrowserContext {
    const [context] = this.#browser?.contexts() ?? [];
    if (!context) throw new Error("no browser is open");
    return context;
  }

  async #show(page: Page, address: string): Promise<Page> {
    page.setDefaultTimeout(20_000);
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(address);
    return page;
  }

  /** Kills the browser with all its processes. */
  async kill(): Promise<void> {
    const { pid } = this.#process ?? {};
    const over = new Promise((done) => this.#process?.once("exit", done));
    if (pid) global.process.kill(-pid, "SIGKILL");
    await over;
    await this.#browser?.close().catch(() => undefined);
  }

  /** Kills what draws and works for the pages; the browser itself stays. */
  killRenderers(): void {
    const lines = execFileSync("ps", ["-eo", "pid,args"]).toString().split("\n");
    for (const line of lines)
      if (line.includes("--type=renderer") && line.includes(this.#profile)) global.process.kill(Number.parseInt(line, 10), "SIGKILL");
  }

  /** A page in the browser that outlived its renderers. */
  async openAgain(address: string): Promise<Page> {
    const context = this.#context();
    // The renderer that stood by for the next page was killed too.
    return this.#show(await context.newPage().catch(() => context.newPage()), address);
  }

  async bury(): Promise<void> {
    await this.kill();
    rmSync(this.#profile, { recursive: true, force: true });
  }
}
