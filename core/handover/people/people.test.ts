import ICAL from "ical.js";
import Papa from "papaparse";
import { parse as parseVcard4 } from "vcard4";
import { expect, test } from "vitest";
import { jpegOf } from "../../../test/pictures.ts";
import { anEntry } from "../../../test/records.ts";
import { exportReader } from "../../exports/read-export.ts";
import type { ContactValues, EventValues, FoundRecord, MessageValues, RecordKind, RecordValues } from "../../finds/record.ts";
import { conversationPage } from "./conversation-page.ts";
import { icalendarOf } from "./icalendar.ts";
import { planPeople, USUAL_FORMS } from "./plan.ts";
import { csvOf, jsonOf } from "./tables.ts";
import { foldedLine, vcardOf } from "./vcard.ts";

const entry = (kind: RecordKind, values: RecordValues, more: Partial<FoundRecord> = {}): FoundRecord =>
  anEntry(`e0.${kind}`, kind, values, more);

/** What people put into address books and messages, and what others put there to do harm. */
const NASTY = 'Käthe; "the fox", \\o/\nsecond line <script>alert(1)</script> = 戏柳青 🎭🎭🎭 ‮gpj.exe';
const CONTACT: ContactValues = {
  name: NASTY,
  given: "Käthe, Anna",
  family: "Holzkopf; Sr.",
  phones: [
    { number: "+44 7700 900123", type: "mobile" },
    { number: "+40 700 000 101", type: "my\r\nEVIL:1" },
  ],
  emails: [{ address: "kaethe@stage.example", type: "home" }],
  addresses: [{ street: "Mill Lane 4, yard", city: "Catterwick", postcode: "ZZ1 9QX" }],
  organization: "Wagon; Theatre, Ltd",
  note: `${"long ".repeat(60)}${NASTY}`,
  birthday: "1983-02-09",
  websites: ["https://stage.example/a\r\nX-EVIL:1"],
};

test.each(["4.0", "3.0"] as const)(
  "a card in vCard %s is read again by ical.js with all that was in it (RFC 6350, RFC 2426)",
  (version) => {
    const text = vcardOf(entry("contact", CONTACT), version);
    const card = new ICAL.Component(ICAL.parse(text));
    const first = (name: string) => card.getFirstPropertyValue(name);
    expect(first("version")).toBe(version);
    // ical.js leaves the mark before a semicolon where 3.0 must have it (RFC 2426 §5).
    const plain = (name: string) => String(first(name)).replaceAll("\\;", ";");
    expect(plain("fn")).toBe(NASTY);
    expect(card.getAllProperties("tel").map((one) => one.getFirstValue())).toEqual(["+44 7700 900123", "+40 700 000 101"]);
    expect(card.getFirstProperty("tel")?.getParameter("type")).toBe("cell");
    expect(first("email")).toBe("kaethe@stage.example");
    expect(card.getFirstProperty("adr")?.getFirstValue()).toEqual(["", "", "Mill Lane 4, yard", "Catterwick", "", "ZZ1 9QX", ""]);
    expect(plain("note")).toBe(CONTACT.note);
    // Nothing that stood in a value became a line of its own.
    expect(text).not.toMatch(/^(?:EVIL|X-EVIL)/m);
    for (const line of text.split("\r\n")) expect(new TextEncoder().encode(line).length).toBeLessThanOrEqual(75);
    // And by Jubar's own reader.
    const [again] = [...(exportReader("a.vcf", "vcf")?.read(new TextEncoder().encode(text), () => {}) ?? [])];
    expect(again.values).toMatchObject({ name: NASTY, organization: CONTACT.organization, birthday: "1983-02-09" });
  },
);

test("cards of the newer version are read by a library for them alone, and a birthday without a year is kept only there", () => {
  const { birthday, ...rest } = CONTACT;
  const text = vcardOf(entry("contact", { ...rest, name: "Ana Dobre", note: "x", birthday: "--0209" }), "4.0");
  expect(birthday).toBe("1983-02-09");
  const parsed = parseVcard4(text) as unknown as { getProperty(name: string): { value: string }[] };
  expect(parsed.getProperty("FN")[0].value).toBe("Ana Dobre");
  expect(parsed.getProperty("TEL")).toHaveLength(2);
  expect(text).toContain("BDAY:--0209");
  expect(vcardOf(entry("contact", { birthday: "--0209" }), "3.0")).not.toContain("BDAY");
  expect(vcardOf(entry("contact", { birthday: "last spring" }), "4.0")).not.toContain("BDAY");
});

test.each(["4.0", "3.0"] as const)(
  "a picture in a card of vCard %s is read again, by libraries and by our own reader, byte for byte",
  (version) => {
    const face = jpegOf(96, 96);
    const photo = `data:image/jpeg;base64,${Buffer.from(face).toString("base64")}`;
    const card = vcardOf(entry("contact", { name: "Ilse Marwitz", photo }), version);
    for (const line of card.split("\r\n")) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    // RFC 6350 §6.2.4: a data address; RFC 2426 §3.1.4: inline, in base64.
    const told = new ICAL.Component(ICAL.parse(card)).getFirstProperty("photo");
    const value = String(told?.getFirstValue());
    expect(version === "4.0" ? value : `data:image/jpeg;base64,${value}`).toBe(photo);
    if (version === "3.0") expect([told?.getFirstParameter("encoding"), told?.getFirstParameter("type")]).toEqual(["b", "JPEG"]);
    else {
      const parsed = parseVcard4(card) as unknown as { getProperty(name: string): { value: string }[] };
      expect(parsed.getProperty("PHOTO")[0].value).toBe(photo);
    }
    const [again] = [...(exportReader("a.vcf", "vcf")?.read(new TextEncoder().encode(card), () => {}) ?? [])];
    expect(again.values).toMatchObject({ name: "Ilse Marwitz", photo });
    // Some write the comma of an address as they do in a list (common practice, no source).
    const escaped = card.replace("base64,", "base64\\,");
    const [third] = [...(exportReader("a.vcf", "vcf")?.read(new TextEncoder().encode(escaped), () => {}) ?? [])];
    expect(third.values).toMatchObject({ photo });
    // What is no such address writes nothing.
    for (const hostile of ["javascript:alert(1)", "data:image/svg+xml;base64,AAAA", "data:image/jpeg;base64,AA\r\nNOTE:x"])
      expect(vcardOf(entry("contact", { name: "Ilse", photo: hostile }), version)).not.toContain("PHOTO");
  },
);

test("lines are folded at 75 bytes and never within a character (RFC 6350 §3.2)", () => {
  const line = `NOTE:${"ä".repeat(90)}🎭`;
  const parts = foldedLine(line).split("\r\n");
  expect(parts.map((part, index) => (index === 0 ? part : part.slice(1))).join("")).toBe(line);
  expect(parts.length).toBeGreaterThan(2);
  for (const part of parts) expect(new TextEncoder().encode(part).length).toBeLessThanOrEqual(75);
});

test("dates are read again by ical.js: moments, days, repetition, guests; what has no beginning is no event (RFC 5545)", () => {
  const events: EventValues[] = [
    {
      uid: "a@x",
      title: NASTY,
      place: "Mill; Lane, 4",
      start: "2024-05-02T18:00:00.000Z",
      end: "2024-05-02T20:00:00.000Z",
      reminders: [30],
      attendees: [{ name: 'Ana "the fox"', address: "ana@stage.example" }, { address: "no mail" }],
    },
    { title: "whole day", start: "2024-05-09", end: "2024-05-09", allDay: true, rrule: "FREQ=WEEKLY;BYDAY=TU" },
    { title: "evil rule", start: "2024-05-09T10:00:00.000Z", rrule: "FREQ=DAILY\r\nX-EVIL:1" },
    { title: "no beginning" },
  ];
  const text = icalendarOf(
    events.map((values, index) => entry("event", values, { id: `e${index}` })),
    Date.UTC(2026, 11, 1),
  );
  expect(text).not.toContain("X-EVIL");
  const told = new ICAL.Component(ICAL.parse(text)).getAllSubcomponents("vevent").map((one) => new ICAL.Event(one));
  expect(told).toHaveLength(3);
  expect(told[0]).toMatchObject({ uid: "a@x", location: "Mill; Lane, 4" });
  expect(told[0].summary).toBe(NASTY);
  const alarm = told[0].component.getFirstSubcomponent("valarm");
  expect(String(alarm?.getFirstPropertyValue("trigger"))).toBe("-PT30M");
  expect(told[0].startDate.toJSDate().toISOString()).toBe("2024-05-02T18:00:00.000Z");
  expect(told[0].attendees.map((one) => one.getFirstValue())).toEqual(["mailto:ana@stage.example"]);
  expect(told[1].startDate.isDate).toBe(true);
  expect(told[1].isRecurring()).toBe(true);
});

test("tables are read again by papaparse, and none of their cells is a formula (RFC 4180)", () => {
  const texts = ["=HYPERLINK(1)", "+1;2", "-2+3", "@SUM(A1)", "\tx", 'with "quotes", commas\nand lines', NASTY, "+44 7700 900123"];
  const entries = texts.map((text, index) =>
    entry("chat", { at: "2024-05-02T18:00:00.000Z", direction: "in", text, address: "+44 7700 900123" }, { id: `e${index}` }),
  );
  const { data, errors } = Papa.parse<Record<string, string>>(csvOf(entries).replace(/^\ufeff/, ""), {
    header: true,
    skipEmptyLines: true,
  });
  expect(errors).toEqual([]);
  expect(data.map(({ text }) => text)).toEqual(["'=HYPERLINK(1)", "'+1;2", "'-2+3", "'@SUM(A1)", "'\tx", texts[5], NASTY, texts[7]]);
  // A number is no formula, with its sign before it.
  expect(data[0].address).toBe("+44 7700 900123");
  expect(JSON.parse(jsonOf(entries)).map(({ text }: { text: string }) => text)).toEqual(texts);
});

test("a conversation is one page that nothing in it can make do anything", () => {
  const messages = [
    entry("chat", { at: "2024-05-02T18:00:00.000Z", direction: "in", person: "<b>Ana</b>", text: NASTY }),
    entry(
      "chat",
      { at: "2024-05-03T08:00:00.000Z", direction: "out", text: "Dry and grumpy.", before: [{ text: "Dry." }], edited: true },
      { state: "erased" },
    ),
    entry("chat", { direction: "system", text: "Ana joined", attachments: [{ path: 'media/a"onerror="x.jpg' }] }),
  ];
  const page = conversationPage({ title: NASTY, values: { members: [{ name: "<i>Ana</i>", address: "a@b" }] }, messages });
  expect(page).not.toMatch(/<script|<b>|<i>|onerror="/);
  expect(page).toContain("default-src 'none'");
  expect(page).toContain("● erased");
  expect(page).toContain("before: Dry.");
  expect(page.indexOf("2024-05-02")).toBeLessThan(page.indexOf("2024-05-03"));
  expect(page).not.toMatch(/(?:src|href)=/);
});

test("of what was chosen each kind has its files, each conversation its page, and no two files one name", () => {
  const message = (conversation: string, index: number): FoundRecord =>
    entry("message", { at: `2024-05-02T18:00:0${index}.000Z`, text: `m${index}`, direction: "in", conversation } as MessageValues, {
      id: `m${index}`,
    });
  const entries = [
    message("t1", 2),
    message("t1", 1),
    message("t2", 3),
    entry("contact", { name: "Ana" }),
    entry("call", { number: "1", at: "2024-05-02T18:00:00.000Z" }, { state: "erased" }),
  ];
  const talks = new Map([
    ["t1", { title: "CON/aux", values: {} }],
    ["t2", { title: "con_aux", values: {} }],
  ]);
  const items = planPeople(entries, talks, USUAL_FORMS, 0);
  const paths = items.map(({ path }) => path);
  expect(new Set(paths.map((path) => path.toLowerCase())).size).toBe(paths.length);
  expect(paths).toEqual(
    expect.arrayContaining([
      "people/contacts.vcf",
      "people/contacts.csv",
      "people/calls.csv",
      "people/calls.json",
      "people/messages.csv",
      "people/messages.json",
    ]),
  );
  expect(paths.filter((path) => path.endsWith(".html"))).toHaveLength(2);
  expect(paths.every((path) => path.split("/").length === 2)).toBe(true);
  expect(items.find(({ path }) => path === "people/calls.csv")?.about).toBe("1 entry, 1 of them erased");
  // Messages stand in their order, whatever order they were chosen in.
  const bytes = items.find(({ path }) => path === "people/messages.json")?.pieces as { bytes: Uint8Array };
  expect(JSON.parse(new TextDecoder().decode(bytes.bytes)).map(({ text }: { text: string }) => text)).toEqual(["m1", "m2", "m3"]);
  expect(planPeople(entries, talks, { contacts: [], messages: [], calls: [], events: [] }, 0)).toEqual([]);
});
