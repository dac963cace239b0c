import ICAL from "ical.js";
import { expect, type Kit, type PhoneTicket, test } from "./kit.ts";

/** People's data of phones that only allow debugging: from the cable to the card that is given back. */
test.beforeEach(async ({ bench }) => {
  await bench.answerFolderPicker();
  await bench.open();
});

/** Clicks in the application itself; what is tapped on the phone is the phone's. */
class Clicks {
  count = 0;
  readonly press = async (what: { click(): Promise<void> }): Promise<void> => {
    this.count++;
    await what.click();
  };
}

/** The contact that was asked for is hidden on the phone: it is on the screen, with the reason, and then in a card that a library reads. */
async function findAndGive({ bench, page }: PhoneTicket, { press }: Clicks): Promise<void> {
  const contacts = page.getByRole("listbox", { name: "Contacts" });
  const wanted = contacts.getByRole("option", { name: /Odd Fjelstad/ });
  await expect(wanted).toHaveCount(1);
  await press(wanted);
  const card = page.getByRole("complementary", { name: "Odd Fjelstad" });
  await expect(card).toContainText("Its group “Boats” is not among the shown ones");
  await expect(card).toContainText("As the phone's own provider told it");
  await press(card.getByRole("button", { name: "Choose", exact: true }));
  await press(bench.tray().getByRole("link", { name: "Hand over" }));
  await press(page.getByRole("button", { name: "Choose the folder and write" }));
  await expect(page.getByRole("region", { name: "Proof" })).toContainText("arrived intact");
  const given = [...(await bench.givenBack())].filter(([path]) => path.endsWith(".vcf"));
  expect(given).toHaveLength(1);
  const vcard = new ICAL.Component(ICAL.parse(String(given[0][1])));
  expect(vcard.getFirstPropertyValue("fn")).toBe("Odd Fjelstad");
  expect(String(vcard.getFirstPropertyValue("tel"))).toContain("+47 400 00 106");
}

const taking = (page: PhoneTicket["page"]) => page.getByRole("button", { name: "Take contacts and messages" });

/** From the phone's card on the bench, the way that asks least. */
async function fromTheBench(ticket: PhoneTicket): Promise<void> {
  const { page } = ticket;
  const clicks = new Clicks();
  await clicks.press(taking(page));
  await expect(page).toHaveURL(/finds\/contacts$/);
  await findAndGive(ticket, clicks);
  expect(clicks.count).toBeLessThanOrEqual(8);
}

test("a healthy phone, from the bench: allowed, taken, the hidden contact found and given as a card, in eight clicks", async ({
  kit,
  ticket,
}) => {
  await kit.take("siskin-healthy");
  await kit.switchDebuggingOn();
  await kit.does("Plug the cable in");
  await kit.tap("Allow");
  await fromTheBench(ticket);
  const { page, bench } = ticket;
  // Its other people are there, under the names that the address book gives them.
  await page.getByRole("link", { name: "Finds" }).click();
  await page.getByRole("link", { name: /^conversations/ }).click();
  await expect(page.getByRole("listbox", { name: "Conversations" })).toContainText("Ana Dorin");
  await page.getByRole("link", { name: /^calls/ }).click();
  await expect(page.getByRole("listbox", { name: "Calls" })).toContainText("Ilse Marwitz");
  await page.getByRole("link", { name: /^calendar/ }).click();
  const calendar = page.getByRole("listbox", { name: "Calendar" });
  await calendar.getByRole("option", { name: /Lantern, first night/ }).click();
  await expect(page.getByRole("complementary", { name: "Lantern, first night" })).toContainText("30 minutes before");
  // Taken once more, those of before are put aside: nobody is there twice.
  await bench.goTo("Copy & scan");
  await page.getByRole("button", { name: "Add a medium" }).click();
  await ticket.fromPhone.getByRole("button", { name: /^Take contacts/ }).click();
  await expect(page).toHaveURL(/finds\/contacts$/);
  await expect(page.getByRole("link", { name: /^contacts/ })).toContainText("9");
});

test("a want for messages proposes it on Ways in, and it opens on what answers", async ({ kit, ticket }) => {
  const { page } = ticket;
  await kit.take("siskin-touch-dead");
  await ticket.intake("Corvane Siskin 3", { lock: "open", symptoms: ["touch dead"] });
  await page.getByRole("combobox", { name: /^Kind/ }).selectOption("messages");
  await page.getByLabel("With whom").fill("Ilse");
  await page.getByRole("button", { name: "Add this want" }).click();
  await kit.does("Put a mouse on");
  await ticket.letIn(kit);
  await page.getByRole("link", { name: /^Take contacts/ }).click();
  await expect(page).toHaveURL(/finds\/conversations$/);
  await expect(page.getByRole("listbox", { name: "Conversations" })).toContainText("Ilse Marwitz");
});

test("a phone that is charged first is asked as soon as it may be", async ({ kit, ticket }) => {
  const { page } = ticket;
  await kit.take("siskin-loose");
  await kit.does("Plug the cable in");
  await kit.tap("Allow");
  await taking(page).click();
  await expect(ticket.fromPhone.getByRole("alert")).toContainText("Battery at 14 %: charge it first.");
  await kit.does("Charge an hour");
  await expect(page).toHaveURL(/finds\/contacts$/);
});

/** How each other practice phone that allows debugging is got at. */
const OTHERS: Readonly<Record<string, (kit: Kit, ticket: PhoneTicket) => Promise<void>>> = {
  "siskin-touch-dead": async (kit) => {
    await kit.does("Put a mouse on");
    await kit.switchDebuggingOn();
  },
  "tern-rooted": async () => {},
  "tern-letters": async () => {},
  "tern-trimmed": async () => {},
  "siskin-flash": async () => {},
  "siskin-encrypted": async () => {},
  "siskin-loose": (kit) => kit.does("Charge an hour"),
  "siskin-locked": async (kit) => {
    await kit.tap("2", "5", "8", "0");
    await kit.switchDebuggingOn();
  },
};
for (const [id, open] of Object.entries(OTHERS))
  test(`${id}: the hidden contact, from the bench to a card`, { tag: "@long" }, async ({ kit, ticket }) => {
    await kit.take(id);
    await open(kit, ticket);
    await kit.does("Plug the cable in");
    await kit.tap("Allow");
    await fromTheBench(ticket);
  });
