import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { test as base, expect, type Locator, type Page } from "@playwright/test";
import { practiceBytes } from "../test/scanning.ts";

/** Names of the folders that hand-overs of a test are written into, in the browser's private storage. */
const GIVEN = "given back";

/** What a technician does at the bench, in their words. */
export class Bench {
  readonly page: Page;
  readonly folder: string;

  /** What the browser itself says of what a test does on purpose. */
  readonly provoked: RegExp[] = [];

  constructor(page: Page, folder: string) {
    this.page = page;
    this.folder = folder;
  }

  /** Writes a file that can be dropped. @returns its path */
  file(name: string, content: Uint8Array | string): string {
    const path = join(this.folder, name);
    writeFileSync(path, content);
    return path;
  }

  card = (): string => this.file("theatre-card.img", practiceBytes());

  async open(): Promise<void> {
    await this.page.goto("/");
    await expect(this.page.getByRole("heading", { name: "Jubar" })).toBeVisible();
  }

  /** Drops a real file from the disk, as the operating system does: the page gets a handle it can open again. */
  async drop(...paths: string[]): Promise<void> {
    const zone = await this.#zone();
    const protocol = await this.page.context().newCDPSession(this.page);
    const at = { x: zone.x + zone.width / 2, y: zone.y + zone.height / 2, data: { items: [], files: paths, dragOperationsMask: 1 } };
    for (const type of ["dragEnter", "dragOver", "drop"] as const) await protocol.send("Input.dispatchDragEvent", { type, ...at });
  }

  /** Where the drop zone lies, once what loads above it moves it no more. */
  async #zone(): Promise<{ x: number; y: number; width: number; height: number }> {
    const place = () => this.page.getByRole("region", { name: /^Drop .*storage here$/ }).boundingBox();
    let zone = await place();
    for (let still = 0; still < 3; ) {
      await this.page.waitForTimeout(100);
      const now = await place();
      still = zone && now && zone.x === now.x && zone.y === now.y && zone.height === now.height ? still + 1 : 0;
      zone = now;
    }
    if (!zone) throw new Error("no place to drop");
    return zone;
  }

  /** Gives a file through the plain file field: no handle, as in browsers that have none. */
  async choose(path: string): Promise<void> {
    await this.page.getByLabel("Disk image").setInputFiles(path);
  }

  /** The practice card's job, from the bench. */
  async startPracticeJob(): Promise<void> {
    await this.open();
    await this.page.getByRole("button", { name: "Start a job with it" }).first().click();
    await expect(this.page).toHaveURL(/\/ticket\/\d+\/scan/);
  }

  /** Scans to the end. */
  async scan(): Promise<void> {
    await this.page.getByRole("button", { name: /Start the scan|Go on/ }).click();
    await expect(this.progress).toContainText("done in", { timeout: 60_000 });
  }

  get progress(): Locator {
    return this.page.getByRole("region", { name: "Progress" }).getByRole("status");
  }

  async goTo(station: "Intake" | "Ways in" | "Copy & scan" | "Finds" | "Hand-over" | "Logbook"): Promise<void> {
    await this.page.getByRole("navigation", { name: "Stations" }).getByRole("link", { name: station }).click();
  }

  /** Finds opens on the first want of a ticket: here everything is shown again. */
  async showEverything(): Promise<void> {
    const want = this.page.getByRole("list", { name: "wants" }).getByRole("button", { pressed: true });
    await want.click();
    await expect(want).toHaveCount(0);
  }

  /** Chips that filter, by their word. */
  chip = (word: string): Locator => this.page.getByRole("toolbar").getByRole("button", { name: new RegExp(`^${word}\\b`) });
  get finds(): Locator {
    return this.page.getByRole("listbox", { name: "Finds" }).getByRole("option");
  }
  tray = (): Locator => this.page.getByRole("region", { name: "Tray" });

  /** How many finds pass the filters, as the screen reader is told. */
  async shown(): Promise<number> {
    const words = await this.page
      .getByRole("status")
      .filter({ hasText: /\d finds? ·/ })
      .textContent();
    return Number(words?.replace(/ find.*/, "").replaceAll(",", ""));
  }

  /** Filters by a chip, and waits until the finds are others. */
  async narrow(word: string): Promise<void> {
    const before = await this.shown();
    await this.chip(word).click();
    await expect.poll(() => this.shown()).not.toBe(before);
  }

  /** The picker that no script can answer is replaced by a folder in the browser's private storage. */
  async answerFolderPicker(): Promise<void> {
    await this.page.addInitScript((name) => {
      Object.assign(window, {
        showDirectoryPicker: async () => (await navigator.storage.getDirectory()).getDirectoryHandle(name, { create: true }),
      });
    }, GIVEN);
  }

  /** A browser that cannot write into folders. */
  async takeFolderPickerAway(): Promise<void> {
    await this.page.addInitScript(() => {
      Reflect.deleteProperty(window, "showDirectoryPicker");
      Reflect.deleteProperty(Object.getPrototypeOf(window), "showDirectoryPicker");
    });
  }

  /** Everything that was written into that folder: path to bytes. What is just getting its name is looked for again. */
  async givenBack(): Promise<Map<string, Buffer>> {
    for (let attempt = 0; attempt < 4; attempt++) {
      const files = await this.#givenNow().catch((cause: unknown) => {
        if (!String(cause).includes("NotFoundError")) throw cause;
        return null;
      });
      if (files) return files;
      await this.page.waitForTimeout(400);
    }
    return this.#givenNow();
  }

  async #givenNow(): Promise<Map<string, Buffer>> {
    const files = await this.page.evaluate(async (name) => {
      const found: [string, string][] = [];
      const walk = async (folder: FileSystemDirectoryHandle, path: string) => {
        for await (const [entry, handle] of folder.entries()) {
          if (handle.kind === "directory") await walk(handle as FileSystemDirectoryHandle, `${path}${entry}/`);
          else {
            const bytes = new Uint8Array(await (await (handle as FileSystemFileHandle).getFile()).arrayBuffer());
            let text = "";
            for (let at = 0; at < bytes.length; at += 32_768) text += String.fromCharCode(...bytes.subarray(at, at + 32_768));
            found.push([path + entry, btoa(text)]);
          }
        }
      };
      await walk(await (await navigator.storage.getDirectory()).getDirectoryHandle(name), "");
      return found;
    }, GIVEN);
    return new Map(files.map(([path, content]) => [path, Buffer.from(content, "base64")]));
  }
}

/** A bench in a fresh browser. Fails on any request that leaves this machine, and on any error of the page. */
export const test = base.extend<{ bench: Bench }>({
  bench: async ({ page, baseURL }, use) => {
    const wrong: string[] = [];
    page.context().on("request", (request) => {
      const url = new URL(request.url());
      if (/^(https?|wss?):$/.test(url.protocol) && url.origin !== new URL(baseURL ?? "").origin) wrong.push(`asked for ${request.url()}`);
    });
    page.on("pageerror", (error) => wrong.push(`error of the page: ${error.message}`));
    page.on("console", (message) => {
      if (message.type() === "error") wrong.push(`console: ${message.text()}`);
    });
    const folder = mkdtempSync(join(tmpdir(), "jubar-e2e-"));
    const bench = new Bench(page, folder);
    await use(bench);
    rmSync(folder, { recursive: true });
    expect(wrong.filter((one) => !bench.provoked.some((expected) => expected.test(one)))).toEqual([]);
  },
});

export { basename, expect };
