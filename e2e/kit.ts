import { expect, type Locator, type Page } from "@playwright/test";
import { type Bench, test as base } from "./bench.ts";

/** What hands do to the practice phones, through the panel. */
export class Kit {
  readonly page: Page;
  readonly panel: Locator;
  readonly screen: Locator;

  constructor(page: Page) {
    this.page = page;
    this.panel = page.getByRole("complementary", { name: "Practice kit" });
    this.screen = this.panel.getByRole("region", { name: "Screen of the practice phone" });
  }

  /** Opens the panel on one phone. */
  async show(id: string): Promise<void> {
    if (!(await this.panel.isVisible())) await this.page.getByRole("button", { name: "Practice kit", exact: true }).click();
    await this.panel.getByRole("combobox").selectOption(id);
  }

  /** Takes one phone out of the kit, as it was at first, with its cable out. */
  async take(id: string): Promise<void> {
    await this.show(id);
    await expect(this.panel.getByRole("button", { name: "Plug the cable in" })).toBeVisible();
  }

  does = (name: string): Promise<void> => this.panel.getByRole("button", { name }).click();

  /** Taps buttons of the screen, one after the other, each when it shows. */
  async tap(...names: readonly (string | RegExp)[]): Promise<void> {
    for (const name of names) await this.screen.getByRole("button", { name, exact: true }).click();
  }

  /** Settings, About phone, seven taps, Developer options: as the steps say. */
  async switchDebuggingOn(): Promise<void> {
    await this.tap("Settings", "About phone");
    for (let tap = 0; tap < 7; tap++) await this.tap(/Build number/);
    await expect(this.screen).toContainText("Developer options are there.");
    await this.tap("Back", "Developer options", "USB debugging: off", "OK");
    await expect(this.screen.getByRole("button", { name: "USB debugging: on" })).toBeVisible();
  }

  async hold(...keys: readonly string[]): Promise<void> {
    const all = this.panel.getByRole("group", { name: "Keys of the practice phone" });
    for (const key of keys) await all.getByRole("button", { name: key, exact: true }).click();
    await all.getByRole("button", { name: "Hold" }).click();
  }

  /** A file that lies beside the phone, saved to the disk. @returns its path */
  async thing(name: RegExp): Promise<string> {
    const saving = this.page.waitForEvent("download");
    await this.panel.getByRole("link", { name }).click();
    return (await saving).path();
  }
}

interface Answers {
  readonly lock: "open" | "owner has the code" | "nobody has it";
  readonly symptoms?: readonly string[];
  readonly consent?: boolean;
}

/** A ticket about a phone, from intake to storage. */
export class PhoneTicket {
  readonly page: Page;
  readonly bench: Bench;
  readonly state: Locator;
  readonly steps: Locator;
  readonly fromPhone: Locator;

  constructor(bench: Bench) {
    this.bench = bench;
    this.page = bench.page;
    this.state = this.page.getByRole("region", { name: "The phone of this ticket" }).getByRole("status");
    this.steps = this.page.getByRole("list", { name: "Steps" });
    this.fromPhone = this.page.getByRole("region", { name: "From the phone" });
  }

  /** The first talk: who, what is wrong, is it locked. */
  async intake(device: string, { lock, symptoms = [], consent = false }: Answers): Promise<void> {
    const { page } = this;
    await page.getByRole("button", { name: "New ticket", exact: true }).click();
    await page.getByLabel("Customer").fill("Ana Dorin");
    await page.getByLabel("Device").fill(device);
    for (const symptom of symptoms)
      await page.getByRole("group", { name: "What is wrong with it?" }).getByRole("button", { name: symptom }).click();
    await page.getByRole("group", { name: "Locked?" }).getByRole("button", { name: lock, exact: true }).click();
    if (consent) await page.getByLabel(/owner shown, and agrees/).check();
  }

  async way(name: string | RegExp): Promise<void> {
    await this.bench.goTo("Ways in");
    await this.page.getByRole("group", { name: "All ways" }).getByRole("button", { name }).click();
  }

  /** A rooted phone with debugging on, from the way that it is come at by to elevated access. */
  async openRooted(kit: Kit): Promise<void> {
    await this.way(/rooted phone/);
    await kit.does("Plug the cable in");
    await this.takeIn();
    await kit.tap("Allow");
    await expect(this.state).toHaveText("Ready");
    await this.current().getByRole("button", { name: "Take elevated access" }).click();
    await kit.tap("Allow");
  }

  /** A phone whose debugging is off, from its settings to its yes. */
  async letIn(kit: Kit): Promise<void> {
    await kit.switchDebuggingOn();
    await kit.does("Plug the cable in");
    await this.bench.goTo("Ways in");
    await this.takeIn();
    await kit.tap("Allow");
    await expect(this.state).toHaveText("Ready");
  }

  /** The phone shows up, and is taken into the ticket. */
  takeIn = (): Promise<void> => this.page.getByRole("button", { name: /^This is the phone/ }).click();

  current = (): Locator => this.steps.locator("li[aria-current=step]");
  ticked = (): Locator => this.steps.getByLabel("done", { exact: true });
  /** Steps that lie behind: seen from here, or gone through by the person. */
  behind = (): Locator => this.ticked().or(this.steps.getByLabel("gone through, nothing here can see it"));

  async copy(take: string): Promise<void> {
    await this.bench.goTo("Copy & scan");
    await this.fromPhone.getByRole("button", { name: take }).click();
    await this.fromPhone.getByRole("button", { name: "Copy it, then scan", exact: true }).click();
  }

  /** The copy is scanned by itself when it is whole: to its end. @returns its SHA-256 as it is shown */
  async scanCopy(): Promise<string> {
    await expect(this.bench.progress).toContainText("done in", { timeout: 90_000 });
    return (await this.page.getByText(/^SHA-256/).textContent())?.slice("SHA-256 ".length) ?? "";
  }

  /** SHA-256 of the working copy as it lies in the browser's storage, computed by the browser itself. */
  copyOnDisk = (): Promise<string> =>
    this.page.evaluate(async () => {
      const folder = await navigator.storage.getDirectory();
      for await (const [name, handle] of folder.entries()) {
        if (!name.startsWith("working-copy-")) continue;
        const digest = await crypto.subtle.digest("SHA-256", await (await (handle as FileSystemFileHandle).getFile()).arrayBuffer());
        return Array.from(new Uint8Array(digest), (byte) => byte.toString(16).padStart(2, "0")).join("");
      }
      return "";
    });
}

export const test = base.extend<{ kit: Kit; ticket: PhoneTicket }>({
  kit: async ({ page, request, baseURL }, use) => {
    // The kit is the server's: every test finds all phones as they were at first.
    const kit: { id: string }[] = await (await request.get("/api/practice")).json();
    for (const { id } of kit) await request.post(`/api/practice/${id}`, { data: { do: "reset" }, headers: { origin: baseURL ?? "" } });
    await use(new Kit(page));
  },
  ticket: async ({ bench }, use) => use(new PhoneTicket(bench)),
});
export { expect };
