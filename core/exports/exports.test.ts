import { deflateSync } from "node:zlib";
import ICAL from "ical.js";
import { describe, expect, test } from "vitest";
import { scanned } from "../../test/scanning.ts";
import { memorySource } from "../bytes/memory-source.ts";
import { tarSource } from "../filesystems/tar/tar-source.ts";
import type { MessageValues } from "../finds/record.ts";
import { MAX_KEPT } from "./components.ts";
import { exportReader } from "./read-export.ts";

const bytesOf = (text: string) => new TextEncoder().encode(text.replaceAll("\n", "\r\n"));
const lacks: string[] = [];
const entries = (text: string | Uint8Array, format: string, name = `export.${format}`) => {
  lacks.length = 0;
  return [...(exportReader(name, format)?.read(typeof text === "string" ? bytesOf(text) : text, (what) => lacks.push(what)) ?? [])];
};
const values = (text: string, format: string) => entries(text, format).map((entry) => entry.values);

describe("address books", () => {
  // versit vCard 2.1 (1996) §2.1.3: quoted-printable with soft line breaks; the next line is no fold even if it begins with a space.
  test("2.1: quoted-printable over several lines, types without a name", () => {
    const [contact] = values(
      `BEGIN:VCARD
VERSION:2.1
N;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:=D0=A8=D0=B8=D1=80;=D0=A1=D0=B0=D0=B2=D0=B2=D0=B0;;;
NOTE;ENCODING=QUOTED-PRINTABLE;CHARSET=UTF-8:Bring the=
 rig=0D=0Aand a gus=
set
TEL;CELL;PREF:+40 700 000 101
PHOTO;ENCODING=BASE64;JPEG:/9j/4AAQ
 SkZJRg==

BDAY:19680412
END:VCARD`,
      "vcf",
    );
    expect(contact).toEqual({
      name: "Савва Шир",
      given: "Савва",
      family: "Шир",
      note: "Bring the rig\nand a gusset",
      phones: [{ number: "+40 700 000 101", type: "cell" }],
      birthday: "1968-04-12",
    });
  });

  // RFC 6350 §3.2: folding may split a character; §3.4 escapes; §3.3 groups; §6.4.1 telephone URIs.
  test("4.0: a fold in the middle of a character, groups, escapes, URIs", () => {
    const folded = Buffer.from("NOTE:Käthe\\, bring the rig\\nand a gusset\r\n");
    const split = folded.indexOf(0xc3) + 1;
    const note = Buffer.concat([folded.subarray(0, split), Buffer.from("\r\n "), folded.subarray(split)]);
    const file = Buffer.concat([
      bytesOf("BEGIN:VCARD\nVERSION:4.0\nFN:Käthe Leinwand\n"),
      note,
      bytesOf(
        'item1.TEL;VALUE=uri;TYPE="voice,work":tel:+49-302-3125956\nADR;TYPE=home:;;59 Wharf\\; rear;Lower Marl;;ZZ28;Deutschland\nORG:Velvet\\; Hire;Sewing\nEND:VCARD\nBEGIN:VCARD\nFN:cut o',
      ),
    ]);
    expect(entries(file, "vcf").map(({ values: one, whole }) => [one, whole])).toEqual([
      [
        {
          name: "Käthe Leinwand",
          note: "Käthe, bring the rig\nand a gusset",
          phones: [{ number: "+49-302-3125956", type: "work" }],
          addresses: [{ street: "59 Wharf; rear", city: "Lower Marl", postcode: "ZZ28", country: "Deutschland" }],
          organization: "Velvet; Hire, Sewing",
        },
        true,
      ],
      [{ name: "cut o" }, false],
    ]);
  });
});

describe("calendars", () => {
  const FILE = `BEGIN:VCALENDAR
VERSION:2.0
BEGIN:VTIMEZONE
TZID:Europe/Madrid
BEGIN:STANDARD
DTSTART:19701025T030000
RRULE:FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU
TZOFFSETFROM:+0200
TZOFFSETTO:+0100
END:STANDARD
BEGIN:DAYLIGHT
DTSTART:19700329T020000
RRULE:FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU
TZOFFSETFROM:+0100
TZOFFSETTO:+0200
END:DAYLIGHT
END:VTIMEZONE
BEGIN:VEVENT
UID:1@wagon.example
SUMMARY:Load-in\\, early
DTSTART;TZID=Europe/Madrid:20250701T110000
DURATION:PT1H30M
ATTENDEE;CN="Ana: Dorin":mailto:ana@wagon.example
BEGIN:VALARM
DESCRIPTION:Reminder
END:VALARM
END:VEVENT
BEGIN:VEVENT
UID:2@wagon.example
DTSTART;TZID=Europe/Madrid:20250330T033000
DTEND:20250330T203000Z
END:VEVENT
BEGIN:VEVENT
UID:3@wagon.example
DTSTART;VALUE=DATE:20250502
END:VEVENT
END:VCALENDAR`;

  // Against ical.js: the same instants for the same lines.
  test("times are the ones that a reference library reads", () => {
    const parsed = new ICAL.Component(ICAL.parse(FILE.replaceAll("\n", "\r\n")));
    const zone = parsed.getFirstSubcomponent("vtimezone");
    if (zone) ICAL.TimezoneService.register(zone);
    const wanted = parsed.getAllSubcomponents("vevent").map((one) => {
      const event = new ICAL.Event(one);
      const said = (time: ICAL.Time) => (time.isDate ? time.toString() : time.toJSDate().toISOString());
      return [event.uid, said(event.startDate)];
    });
    const read = values(FILE, "ics") as { uid?: string; start?: string; end?: string }[];
    expect(read.map(({ uid, start }) => [uid, start])).toEqual(wanted);
    expect(read.map(({ end }) => end)).toEqual(["2025-07-01T10:30:00.000Z", "2025-03-30T20:30:00.000Z", undefined]);
    expect(read[0]).toMatchObject({
      title: "Load-in, early",
      allDay: false,
      attendees: [{ name: "Ana: Dorin", address: "ana@wagon.example" }],
    });
    expect(read[2]).toMatchObject({ allDay: true });
    expect(read[0]).not.toHaveProperty("description", "Reminder");
  });
});

describe("message exports", () => {
  const wanted = {
    address: "+40700000101",
    person: "Ana Dorin",
    direction: "out",
    at: "2024-07-04T05:39:41.000Z",
    text: 'The "Lantern", at eight\nsharp',
  };
  test("a table with a head line (RFC 4180 §2)", () => {
    expect(
      values(
        '\ufeffDate,Direction,Number,Name,Text\n2024-07-04 05:39:41,sent,+40700000101,Ana Dorin,"The ""Lantern"", at eight\nsharp"',
        "csv",
      ),
    ).toEqual([{ ...wanted, text: wanted.text.replace("\n", "\r\n") }]);
    expect(values("Plant,Height\nfern,20", "csv")).toEqual([]);
  });
  test("JSON, a list somewhere in an object, and the packed list of a backup", () => {
    const list = [
      { address: wanted.address, contact: wanted.person, date: Date.parse(wanted.at), type: 2, body: wanted.text },
      { nonsense: 1 },
    ];
    expect(values(JSON.stringify({ exported: 1, messages: list }), "json")).toEqual([wanted]);
    expect(entries(deflateSync(JSON.stringify(list)), "unknown", "000000_sms_backup").map((entry) => entry.values)).toEqual([wanted]);
    expect(values("{not json", "json")).toEqual([]);
    expect(exportReader("notes.txt", "txt")).toBe(null);
  });
});

describe("what an export lacks is said", () => {
  // RFC 5545 §3.6: a calendar's other components. Some programs write them without a calendar around them.
  test("tasks, journal entries and events outside a calendar are entries; times of being busy are counted", () => {
    const found = entries(
      `BEGIN:VEVENT
UID:a
SUMMARY:Outside
DTSTART:20260503T182000Z
END:VEVENT
BEGIN:VCALENDAR
BEGIN:VTODO
UID:b
SUMMARY:Mend the blue cloth
DUE:20260510T120000Z
BEGIN:VALARM
DESCRIPTION:Reminder
END:VALARM
END:VTODO
BEGIN:VJOURNAL
UID:c
SUMMARY:Rain all day
DTSTART;VALUE=DATE:20260504
END:VJOURNAL
BEGIN:VFREEBUSY
UID:d
END:VFREEBUSY
BEGIN:VFREEBUSY
UID:e
END:VFREEBUSY
END:VCALENDAR`,
      "ics",
    );
    expect(found.map(({ columns, values: one }) => [columns.BEGIN, one])).toMatchObject([
      [undefined, { uid: "a", title: "Outside", start: "2026-05-03T18:20:00.000Z" }],
      ["VTODO", { uid: "b", title: "Mend the blue cloth", end: "2026-05-10T12:00:00.000Z" }],
      ["VJOURNAL", { uid: "c", title: "Rain all day", start: "2026-05-04", allDay: true }],
    ]);
    expect(lacks).toEqual(["2 times of being busy in it are not read"]);
    expect(exportReader("x.ics", "ics")?.mayBe(bytesOf("BEGIN:VEVENT\nUID:a\nEND:VEVENT"))).toBe(true);
  });

  test("a value of 20,000 letters is whole; one of 100,000 is cut, and that is said", () => {
    const card = (letters: number) => `BEGIN:VCARD\nFN:Ana Dorin\nNOTE:${"x".repeat(letters)}\nEND:VCARD`;
    expect(entries(card(20_000), "vcf")[0].columns.NOTE).toHaveLength(20_000);
    expect(lacks).toEqual([]);
    const [cut] = entries(card(100_000), "vcf");
    expect(cut.columns.NOTE).toHaveLength(MAX_KEPT + 1);
    expect(cut.values).toMatchObject({ note: "x".repeat(100_000) });
    expect(lacks).toEqual([`a value NOTE of more than ${MAX_KEPT} letters is shown by its first ones; the file itself has all of it`]);
  });

  test("the packed list of a backup that was cut off says so", () => {
    const list = Array.from({ length: 400 }, (_, number) => ({
      address: `+4070000${number}`,
      date: 1_783_000_000_000 + number,
      type: 1,
      body: `Line ${number * 7919}`,
    }));
    const packed = deflateSync(JSON.stringify(list));
    expect(entries(packed.subarray(0, packed.length / 2), "unknown", "000000_sms_backup")).toEqual([]);
    expect(lacks).toEqual([expect.stringMatching(/^it is cut off or broken after \d+ unpacked bytes/)]);
    expect(entries(packed, "unknown", "000000_sms_backup")).toHaveLength(400);
    expect(lacks).toEqual([]);
  });

  test.each([
    ["people.vcf", "vcf", "Dear Ana,\nhere are the numbers", "no card of an address book begins in it"],
    ["diary.ics", "ics", "BEGIN:VCALENDAR\nVERSION:2.0\nEND:VCALENDAR", "no entry of a calendar is in it"],
    ["chats.csv", "csv", "date,body\nnever,x", "no messages are read from it, though its columns tell of them (date,body)"],
    [
      "chats.json",
      "json",
      '[{"date": 1783000000000, "body": "cut in the mid',
      "no messages are read from it: it is cut off, or of a shape that is not known",
    ],
  ])("%s gives nothing, and a scan says why", async (name, format, text, because) => {
    const content = memorySource(bytesOf(text), name);
    const { troubles } = await scanned(tarSource("folder", [{ path: name, size: content.size, modified: 0, content }]));
    expect(troubles.map(({ what }) => what)).toContain(`/${name}: ${because}`);
    expect(exportReader(name, format)).not.toBeNull();
  });

  test.each([
    ["settings.json", '{"theme": "evening", "volume": 3}'],
    ["prices.csv", "Wann,Wer,Was\n1,2,3"],
  ])("%s, which is no export of messages, is not spoken of", async (name, said) => {
    const content = memorySource(bytesOf(said), name);
    const { troubles } = await scanned(tarSource("folder", [{ path: name, size: content.size, modified: 0, content }]));
    expect(troubles).toEqual([]);
  });

  // Unicode Standard, 23.8: the mark says in which order the bytes stand.
  test.each([
    ["utf16le", [0xff, 0xfe]],
    ["utf16be", [0xfe, 0xff]],
  ])("a table in %s is read as what it says", async (encoding, mark) => {
    const table = Buffer.from("date,number,body\n2026-05-02 18:00,+40 700 000 101,Să nu uităm lampa\n", "utf16le");
    if (encoding === "utf16be") table.swap16();
    const bytes = new Uint8Array([...mark, ...table]);
    const content = memorySource(bytes, "chats.csv");
    const { records } = await scanned(tarSource("folder", [{ path: "chats.csv", size: content.size, modified: 0, content }]));
    expect(records.map(({ values }) => (values as MessageValues).text)).toEqual(["Să nu uităm lampa"]);
  });
});
