import "fake-indexeddb/auto";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { foundPart } from "../../test/phone-parts.ts";
import { emptyDatabase, Tab, ticketOf } from "../../test/tab.ts";
import { installBrowser } from "../../test/web-locks.ts";
import { loadPart } from "../kept/database.ts";
import { tellAll } from "../kept/news.ts";
import { guardLeaving } from "../shell/work-under-way.ts";
import { PartDesk } from "../worker/phones/part-desk.ts";
import { copyOf, isCopied, type MediumState } from "./session-state.ts";

/** The phones' worker of a page, in this process; nothing lies on its bench. */
const phones = vi.hoisted(() => ({ desk: null as unknown }));
vi.mock("../phones/phones.ts", () => ({ phoneDesk: () => phones.desk, onPhones: () => () => {} }));

installBrowser();
const tabs: Tab[] = [];
const open = async (job: number): Promise<Tab> => {
  const tab = await Tab.open(job);
  tabs.push(tab);
  return tab;
};
let desk: PartDesk;
beforeEach(async () => {
  await emptyDatabase();
  desk = new PartDesk({ bySerial: () => null, allBySerial: () => [] });
  phones.desk = desk;
});
afterEach(async () => {
  for (const tab of tabs.splice(0)) await tab.close();
  Reflect.deleteProperty(navigator, "storage");
});

const stateOf = (tab: Tab, medium: number): MediumState => {
  const state = tab.session.store.getState().media.find((one) => one.medium.id === medium);
  if (!state) throw new Error(`this tab knows no medium ${medium}`);
  return state;
};
/** The browser's own storage takes forever to open: a copy into it runs until it is ended. */
const hang = (): void =>
  void Object.defineProperty(navigator, "storage", { configurable: true, value: { getDirectory: () => new Promise(() => {}) } });
/** Does the browser ask before this page is left? */
function asksBefore(): boolean {
  const page = new EventTarget();
  guardLeaving(page as Window);
  return !page.dispatchEvent(new Event("beforeunload", { cancelable: true }));
}

test("while a copy is made, closing the tab asks first; when it ends, however, it does not", async () => {
  hang();
  const { job } = await ticketOf();
  const medium = await foundPart(job);
  const tab = await open(job);
  expect(asksBefore()).toBe(false);
  expect(await tab.session.medium(medium)?.copy({ kind: "browser" })).toBeNull();
  await expect.poll(() => stateOf(tab, medium).copy?.status).toBe("running");
  expect(asksBefore()).toBe(true);
  expect(isCopied(stateOf(tab, medium))).toBe(true);
  tellAll({ type: "end", media: [medium] });
  await expect.poll(() => isCopied(stateOf(tab, medium))).toBe(false);
  expect(asksBefore()).toBe(false);
});

test("another tab watches a copy, is told why it cannot begin one, and sees what becomes of it when that page is gone", async () => {
  hang();
  const { job } = await ticketOf();
  const medium = await foundPart(job);
  const first = await open(job);
  await first.session.medium(medium)?.copy({ kind: "browser" });
  const second = await open(job);
  await expect.poll(() => stateOf(second, medium).worked).toBe("elsewhere");
  // The second tab's phones are its own worker's.
  phones.desk = new PartDesk({ bySerial: () => null, allBySerial: () => [] });
  expect(await second.session.medium(medium)?.copy({ kind: "browser" })).toBe(
    "This is worked on already: by its scan here, or in another tab.",
  );
  expect(asksBefore()).toBe(true);
  expect(stateOf(second, medium).worked).toBe("elsewhere");
  tellAll({ type: "end", media: [medium] });
  await expect.poll(() => stateOf(second, medium).worked).toBe("nowhere");
  const part = await loadPart(medium);
  expect(part && copyOf(stateOf(second, medium), part).status).toBe("stopped");
});

test("a copy that breaks off says why, in the strip's state and in what is kept", async () => {
  const { job } = await ticketOf();
  const medium = await foundPart(job);
  const tab = await open(job);
  // No browser's storage here.
  expect(await tab.session.medium(medium)?.copy({ kind: "browser" })).toBeNull();
  await expect.poll(() => stateOf(tab, medium).copy?.status).toBe("failed");
  expect(stateOf(tab, medium)).toMatchObject({ worked: "nowhere", copy: { because: expect.stringMatching(/^The copy broke off/) } });
  expect((await loadPart(medium))?.because).toBe(stateOf(tab, medium).copy?.because);
  expect(asksBefore()).toBe(false);
});
