import { afterAll, expect, test } from "vitest";
import { memorySource } from "../../../core/bytes/memory-source.ts";
import { UnusableError } from "../../../core/bytes/source.ts";
import { tarSource } from "../../../core/filesystems/tar/tar-source.ts";
import type {
  ContactValues,
  ConversationValues,
  EventValues,
  FoundRecord,
  MediaValues,
  MessageValues,
} from "../../../core/finds/record.ts";
import { isOwnFile } from "../../../core/medium/own-files.ts";
import { introduce, packetsOver } from "../../../core/phones/adb/connection.ts";
import { keyRing, makeKey } from "../../../core/phones/adb/keys.ts";
import { PrintedRows } from "../../../core/phones/adb/printed-rows.ts";
import type { Entry } from "../../../core/stores/store.ts";
import { rowsAt } from "../../../standins/phone/people.ts";
import type { PracticePhone } from "../../../standins/phone/practice-phone.ts";
import { phoneOnCable, Served, tcpPipe } from "../../../test/practice-phones.ts";
import { providerRows } from "../../../test/provider-rows.ts";
import { scanned } from "../../../test/scanning.ts";
import { callsOf, contactsOf, eventsOf, gatheredKept, messagesOf, type PeopleTruth, peopleTruth } from "../../../test/told-people.ts";
import { sharedPart } from "./phone-parts.ts";
import { takePeople } from "./take-people.ts";

/** A phone that only allows debugging: what its providers tell, taken over the protocol, written, scanned, and read by the stores. */
const served = new Served();
afterAll(() => served.close());
const key = await makeKey("bench@jubar");
const enter = async (phone: PracticePhone) =>
  introduce(phone.card.serial, packetsOver(await tcpPipe(await served.adb(phone))), keyRing([key]), () => {});

/** An archive as it is written: pieces at their places. */
class Written {
  bytes = new Uint8Array(0);
  write = async (at: number, piece: Uint8Array): Promise<void> => {
    if (at + piece.length > this.bytes.length) {
      const longer = new Uint8Array(at + piece.length);
      longer.set(this.bytes);
      this.bytes = longer;
    }
    this.bytes.set(piece, at);
  };
}

async function taken(phone: PracticePhone) {
  const adb = await enter(phone);
  const written = new Written();
  const { size, told, troubles } = await takePeople(adb, written.write, () => {}, new AbortController().signal);
  await adb.close();
  expect(written.bytes.length).toBe(size);
  const outcome = await scanned(memorySource(written.bytes, "people"), { depth: "quick" });
  return { ...outcome, told, notTold: troubles };
}
const of = <T>(records: readonly FoundRecord[], kind: FoundRecord["kind"]) =>
  records.filter((one) => one.kind === kind).map((one) => ({ ...one, values: one.values as T }));

test("a healthy phone: contacts with the hidden ones and why, a deleted one, its picture; messages with both sides; calls; dates; the media list", async () => {
  const { records, finds, troubles } = await taken(await phoneOnCable("siskin-healthy", true));
  expect(troubles).toEqual([]);
  const contacts = of<ContactValues>(records, "contact");
  expect(contacts.map(({ state, values }) => `${state} ${values.name}`).sort()).toEqual([
    "binned Harbour master, Vik",
    "hidden Boat hall, caretaker",
    "hidden Odd Fjelstad",
    "present Ana Dorin",
    "present Grandmother",
    "present Ilse Marwitz",
    "present Mirela Voss",
    "present Pavel, lights",
    "present Teatrul Lumina, office",
  ]);
  const named = (name: string) => contacts.find(({ values }) => values.name === name);
  expect(named("Odd Fjelstad")?.values.hiddenBy).toEqual({ account: "SIM card", group: "Boats" });
  expect(named("Harbour master, Vik")?.values).toMatchObject({ phones: [{ number: "+47 400 00 109", type: "work" }] });
  expect(named("Ana Dorin")?.values.photo).toMatch(/^data:image\/jpeg;base64,/);
  expect(named("Ilse Marwitz")?.values).toMatchObject({ given: "Ilse", family: "Marwitz", note: "Lantern keys: top drawer, data1=left" });
  expect(named("Grandmother")?.values.birthday).toBe("1941-03-09");
  expect(named("Ana Dorin")).toMatchObject({ rows: [], database: null, store: "contacts" });
  expect(named("Ana Dorin")?.evidence[0]).toMatchObject({ what: "the phone's own provider", page: null });
  const messages = of<MessageValues>(records, "message");
  expect(messages).toHaveLength(8);
  expect(messages.map(({ values }) => values.text)).toContain("Two then. Row: 7 is free, body=soul, date=now");
  const multimedia = messages.find(({ values }) => values.attachments?.length);
  expect(multimedia?.values).toMatchObject({ address: "+40 700 000 101", direction: "in", text: "The lantern, lit.\nBoth of you: look!" });
  const [picture] = [...finds.values()].filter(({ kind }) => kind === "photo");
  expect(multimedia?.values.attachments?.[0].path?.endsWith(`/${picture.name}`)).toBe(true);
  expect(picture.condition).toBe("whole");
  const group = of<ConversationValues>(records, "conversation").find(({ values }) => values.group);
  expect(group?.values.members).toEqual([{ address: "+40 700 000 101" }, { address: "+49 1500 0000102" }]);
  expect(of(records, "call")).toHaveLength(5);
  const events = of<EventValues>(records, "event");
  expect(events.map(({ state, values }) => `${state} ${values.title}`)).toContain("binned Rehearsal, called off");
  expect(events.find(({ values }) => values.title === "Load the wagon")?.values.rrule).toBe("FREQ=WEEKLY;COUNT=4");
  expect(events.find(({ values }) => values.title === "Lantern, first night")?.values).toMatchObject({
    attendees: [{ name: "Ilse Marwitz", address: "ilse@wagon.example" }, { address: "office@lumina.example" }],
    reminders: [30],
  });
  expect(of<MediaValues>(records, "media").filter(({ state }) => state === "binned").length).toBeGreaterThan(0);
  // What Jubar itself wrote is no find, and no id is told twice.
  expect([...finds.values()].filter(({ path }) => isOwnFile(path))).toEqual([]);
  expect(new Set(records.map(({ id }) => id)).size).toBe(records.length);
});

// Databases by the stock SQLite library after the schemas of the Android Open Source Project, with the truth of what is in them (test/databases).
test("of whole databases behind the providers everything that is there comes, and nothing else", async () => {
  const phone = await phoneOnCable("siskin-healthy", true);
  const NAMES = ["contacts2-nopage1", "mmssms-zeroed", "calllog", "calendar"] as const;
  phone.people = providerRows(await Promise.all(NAMES.map(gatheredKept)));
  const { records } = await taken(phone);
  const entries = records as Entry[];
  const left = (name: (typeof NAMES)[number]): PeopleTruth => {
    const truth = peopleTruth(name);
    const isThere = ({ state }: { state: string }) => state !== "erased" && (name !== "calllog" || state !== "binned");
    const [contacts, messages] = [truth.contacts.filter(isThere), truth.messages.filter(isThere)];
    return { ...truth, contacts, messages, calls: truth.calls.filter(isThere), events: truth.events.filter(isThere) };
  };
  for (const [account, name] of [
    [contactsOf, "contacts2-nopage1"],
    [messagesOf, "mmssms-zeroed"],
    [callsOf, "calllog"],
    [eventsOf, "calendar"],
  ] as const) {
    const { asked, right, wrong, invented } = account(left(name), entries);
    expect(wrong, name).toEqual([]);
    expect(right, name).toEqual(asked);
    expect(invented, name).toBe(0);
    expect(
      Object.values(asked).reduce((sum, count) => sum + count, 0),
      name,
    ).toBeGreaterThan(50);
  }
});

test("a provider that refuses is said, now and whenever it is read; the rest comes", async () => {
  const phone = await phoneOnCable("tern-rooted", true);
  const all = ["content://com.android.contacts/data", "content://call_log/calls"].map((uri) => [uri, rowsAt(uri, phone.files, 9)]);
  phone.people = Object.fromEntries(all);
  const { records, notTold, troubles } = await taken(phone);
  expect(notTold).toEqual([
    "raw contacts: the phone does not tell them to the debugging shell",
    "messages: the phone does not tell them to the debugging shell",
    "calendar: the phone does not tell them to the debugging shell",
  ]);
  expect(troubles.map(({ what }) => what)).toEqual(notTold.map((what) => `the phone: ${what}`));
  // Without its list of contacts, what the rows of data say of them.
  expect(of<ContactValues>(records, "contact").filter(({ state }) => state === "hidden")).toHaveLength(2);
  expect(of(records, "call")).toHaveLength(5);
  // Android 8 knows no bin: its media list is asked for without one.
  expect(of(records, "media").length).toBeGreaterThan(20);
});

test("stopped, or with the cable out, it ends; nothing is taken for a whole answer", async () => {
  const phone = await phoneOnCable("siskin-healthy", true);
  const adb = await enter(phone);
  const stop = new AbortController();
  const written = new Written();
  const stopping = takePeople(adb, written.write, () => stop.abort(), stop.signal);
  await expect(stopping).rejects.toThrow(UnusableError);
  const pulled = takePeople(adb, written.write, () => phone.plug(false), new AbortController().signal);
  await expect(pulled).rejects.toThrow();
});

test("a copy of shared storage carries none of it: nobody is told twice", async () => {
  const adb = await enter(await phoneOnCable("siskin-healthy", true));
  const { members } = await sharedPart(adb, () => {}, new AbortController().signal);
  expect(members.length).toBeGreaterThan(20);
  expect(members.filter(({ path }) => isOwnFile(`/${path}`))).toEqual([]);
  await adb.close();
});

/** An answer as copies of before keep it: rows as objects, over several lines. */
const OLD = {
  "asked of the phone/contacts.json": {
    uri: "content://com.android.contacts/data",
    columns: ["raw_contact_id", "mimetype", "account_type", "in_visible_group", "data2", "display_name", "data1"],
    rows: [
      ["4", "vnd.android.cursor.item/name", "org.example.sim", "0", null, "Odd } Fjelstad", "Odd } Fjelstad"],
      ["4", "vnd.android.cursor.item/phone_v2", "org.example.sim", "0", "2", "Odd } Fjelstad", "+47 400 00 106"],
    ],
  },
  "asked of the phone/messages.json": {
    uri: "content://sms",
    columns: ["_id", "thread_id", "address", "date", "type", "body"],
    rows: [["1", "1", "+47 400 00 106", "1777737600000", "1", "line one\nline two"]],
  },
  "asked of the phone/calls.json": {
    uri: "content://call_log/calls",
    columns: ["_id", "number", "date", "duration", "type", "name"],
    rows: [],
  },
};
const oldCopy = (cut: (path: string, text: string) => string = (_, text) => text) =>
  tarSource(
    "copy",
    Object.entries(OLD).map(([path, { uri, columns, rows }]) => {
      const named = rows.map((row) => Object.fromEntries(columns.map((column, at) => [column, row[at]])));
      const bytes = new TextEncoder().encode(cut(path, `${JSON.stringify({ uri, columns, rows: named }, null, 1)}\n`));
      return { path, size: bytes.length, modified: 0, content: memorySource(bytes, path) };
    }),
  );

test("copies of before are read by the same road", async () => {
  const { records, troubles } = await scanned(oldCopy(), { depth: "quick" });
  expect(troubles).toEqual([]);
  const [contact] = of<ContactValues>(records, "contact");
  expect(contact).toMatchObject({
    state: "hidden",
    values: { name: "Odd } Fjelstad", phones: [{ number: "+47 400 00 106", type: "mobile" }], hiddenBy: { account: "org.example.sim" } },
  });
  expect(of<MessageValues>(records, "message").map(({ values }) => values.text)).toEqual(["line one\nline two"]);
});

test.each([
  ["cut off", (text: string) => text.slice(0, -40), "it is cut off: what followed is not there", 0],
  ["with a broken row", (text: string) => text.replace('"date": "1777', '"date": 1777x"'), "a row of it does not read", 0],
  ["of nobody", (text: string) => text.replace("content://sms", "content://nobody"), "it is no answer of a provider that is known", 0],
])("an answer %s is said, and the others come", async (_, change, said, messages) => {
  const { records, troubles } = await scanned(
    oldCopy((path, text) => (path.includes("messages") ? change(text) : text)),
    { depth: "quick" },
  );
  expect(troubles.map(({ what }) => what)).toEqual([`messages.json: ${said}`]);
  expect(of(records, "contact")).toHaveLength(1);
  expect(of(records, "message")).toHaveLength(messages);
});

// Android Open Source Project, frameworks/base/cmds/content: how rows are printed.
test.each([1, 2, 7, 1000])("rows are the same in pieces of %i letters, whatever stands in their last column", (length) => {
  const bodies = ["", "a, _id=5", "Row: 1 _id=9\nRow: 2", "line\r\nline", "NULL-ish", "x".repeat(300)];
  const text = bodies.map((body, index) => `Row: ${index} _id=${index + 1}, type=NULL, body=${body}\n`).join("");
  const printed = new PrintedRows(["_id", "type", "body"]);
  const rows = [];
  for (let at = 0; at < text.length; at += length) rows.push(...printed.push(text.slice(at, at + length)));
  rows.push(...printed.end());
  expect(rows.map(({ body }) => body)).toEqual(bodies.map((body) => body.replaceAll("\r\n", "\n")));
  expect(rows.map(({ _id, type }) => [_id, type])).toEqual(bodies.map((_, index) => [`${index + 1}`, null]));
});
