import { seeded } from "./random.ts";

/**
 * What the theatre's practice phones hold of people, as commands for the stock sqlite3 program: the system's own databases after the schemas of the Android
 * Open Source Project, and two messengers that nobody ever wrote. Each is filled first and thinned out then, as people do it.
 */

const START = Date.UTC(2026, 3, 18, 8);
const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const quoted = (value: string | number | null): string =>
  value === null ? "NULL" : typeof value === "number" ? String(value) : `'${value.replaceAll("'", "''")}'`;
const rows = (all: readonly (readonly (string | number | null)[])[]): string =>
  all.map((row) => `(${row.map(quoted).join(",")})`).join(",\n");

interface Someone {
  readonly name: string;
  readonly numbers: readonly string[];
  readonly mail?: string;
  readonly handle: string;
  /** What keeps the address book from showing it. */
  readonly hidden?: true;
  readonly gone?: true;
}

const PEOPLE: readonly Someone[] = [
  { name: "Ana Dorin", numbers: ["+447700900231", "+441632960118"], mail: "ana@strings.example", handle: "ana.strings" },
  { name: "Ilse Marwitz", numbers: ["07700 900102"], mail: "ilse@wagon.example", handle: "ilse.lantern" },
  { name: "Fenna Oltmans", numbers: ["+44 7700 900103"], handle: "fenna" },
  { name: "Bela Korda", numbers: ["+447700900500"], handle: "bela.k", hidden: true },
  { name: "Zora Lind", numbers: ["+447700900611"], mail: "zora@barn.example", handle: "zora", hidden: true },
  { name: "Mirela Voss", numbers: ["+447700900700"], handle: "mirela" },
  { name: "Gate, Oberlauben", numbers: ["+441632960771"], handle: "gate", gone: true },
  { name: "Odile Karst", numbers: ["+447700900812"], mail: "odile@wagon.example", handle: "odile" },
  { name: "Corvin Ryle", numbers: ["+447700900834"], handle: "corvin.r" },
  { name: "Hedwig Moll", numbers: ["+441632960255"], mail: "hedwig@barn.example", handle: "hedwig" },
];
/** Whose phone it is. */
const OWNER = 5;

/** Texts of messages: what a troupe on tour says to each other. */
const SAID = [
  "Are the puppets dry by now? The fox smelled of river all night.",
  "Dry and grumpy. We open at eight.",
  "I talked to Teatrul Lumina. They want us on the 9th, same fee.",
  "Tell them yes before they wake up!",
  "Who has the key to the second wagon?",
  "The moon rig snapped again, bring the long rope",
  "House was full tonight, they loved the crocodile",
  "Load-in is at nine, the gate code is with Ilse",
  "Să nu uităm lampa de la intrare",
  "Fee paid, receipt follows by post",
  "Rehearsal moved to Wednesday, the barn is still wet",
  "今晚开场别忘了带灯笼",
] as const;

/** What is said behind it. */
const MORE = [
  "Back at six.",
  "And bring the blue thread.",
  "Ask Odile, she was there.",
  "The second act dragged again.",
  "I left it under the bench.",
  "Nobody answered at the gate.",
  "It rained through the roof.",
  "We fixed the control bar with wire.",
  "They clapped for the mouse!",
  "Tomorrow, then.",
  "Not before the matinee.",
  "He snores, by the way.",
] as const;

const CONTACTS = (): string => {
  const data: (string | number | null)[][] = [];
  const add = (raw: number, mime: number, first: string | number, second: string | number | null = null) =>
    data.push([data.length + 1, mime, raw, first, second]);
  for (const [index, { name, numbers, mail, hidden }] of PEOPLE.entries()) {
    const raw = index + 1;
    const [given, ...family] = name.split(" ");
    add(raw, 7, name, given);
    data[data.length - 1].push(family.join(" "));
    for (const [at, number] of numbers.entries()) add(raw, 5, number, at === 0 ? 2 : 3);
    if (mail) add(raw, 1, mail, 1);
    if (!hidden) add(raw, 11, 1);
  }
  return `
PRAGMA page_size=4096; PRAGMA secure_delete=OFF; PRAGMA journal_mode=PERSIST;
CREATE TABLE accounts (_id INTEGER PRIMARY KEY AUTOINCREMENT,account_name TEXT, account_type TEXT, data_set TEXT);
CREATE TABLE settings (account_name STRING NOT NULL,account_type STRING NOT NULL,data_set STRING,ungrouped_visible INTEGER NOT NULL DEFAULT 0,should_sync INTEGER NOT NULL DEFAULT 1);
CREATE TABLE groups (_id INTEGER PRIMARY KEY AUTOINCREMENT,account_id INTEGER,title TEXT,deleted INTEGER NOT NULL DEFAULT 0,group_visible INTEGER NOT NULL DEFAULT 0,auto_add INTEGER NOT NULL DEFAULT 0);
CREATE TABLE mimetypes (_id INTEGER PRIMARY KEY AUTOINCREMENT,mimetype TEXT NOT NULL);
CREATE TABLE raw_contacts (_id INTEGER PRIMARY KEY AUTOINCREMENT,account_id INTEGER,version INTEGER NOT NULL DEFAULT 1,deleted INTEGER NOT NULL DEFAULT 0,contact_id INTEGER,display_name TEXT);
CREATE TABLE contacts (_id INTEGER PRIMARY KEY AUTOINCREMENT,name_raw_contact_id INTEGER,contact_last_updated_timestamp INTEGER);
CREATE TABLE deleted_contacts (contact_id INTEGER PRIMARY KEY,contact_deleted_timestamp INTEGER NOT NULL default 0);
CREATE TABLE data (_id INTEGER PRIMARY KEY AUTOINCREMENT,mimetype_id INTEGER NOT NULL,raw_contact_id INTEGER NOT NULL,data1 TEXT,data2 TEXT,data3 TEXT,data15 BLOB);
INSERT INTO accounts VALUES (1,'wagon','org.example.account',NULL),(2,'old wagon','org.example.account',NULL);
INSERT INTO settings VALUES ('wagon','org.example.account',NULL,1,1),('old wagon','org.example.account',NULL,0,1);
INSERT INTO groups VALUES (1,1,'Troupe',0,1,1);
INSERT INTO mimetypes VALUES ${rows(["email_v2", "im", "nickname", "organization", "phone_v2", "sip_address", "name", "postal-address_v2", "identity", "photo", "group_membership", "note"].map((kind, index) => [index + 1, `vnd.android.cursor.item/${kind}`]))};
INSERT INTO contacts VALUES ${rows(PEOPLE.map((_, index) => [index + 1, index + 1, START]))};
INSERT INTO raw_contacts VALUES ${rows(PEOPLE.map(({ name, hidden }, index) => [index + 1, hidden ? 2 : 1, 2, 0, index + 1, name]))};
INSERT INTO data VALUES ${rows(data.map(([id, mime, raw, first, second, third = null]) => [id, mime, raw, first, second, third, null]))};
${PEOPLE.flatMap(({ gone }, index) => (gone ? [`DELETE FROM data WHERE raw_contact_id=${index + 1}; DELETE FROM raw_contacts WHERE _id=${index + 1}; DELETE FROM contacts WHERE _id=${index + 1}; INSERT INTO deleted_contacts VALUES (${index + 1},${START + 9 * DAY});`] : [])).join("\n")}
BEGIN;
UPDATE data SET data1='odile.karst@night-tram.example' WHERE data1='odile@wagon.example';
UPDATE data SET data1='+447700900846' WHERE data1='+447700900812';
UPDATE contacts SET contact_last_updated_timestamp=${START + 12 * DAY} WHERE _id=8;
COMMIT;
`;
};

const MESSAGES = (): string => {
  const random = seeded(41);
  const withWhom = [0, 1, 2, 7];
  const all = Array.from({ length: 260 }, (_, index) => {
    const thread = index % withWhom.length;
    const at = START + Math.floor(index * 2.1 * HOUR + random() * HOUR);
    return [
      index + 1,
      thread + 1,
      PEOPLE[withWhom[thread]].numbers[0],
      at,
      at - 900,
      1,
      -1,
      index % 3 === 0 ? 2 : 1,
      SAID[(index * 5) % SAID.length],
      1,
    ];
  });
  return `
PRAGMA page_size=4096; PRAGMA secure_delete=OFF; PRAGMA journal_mode=PERSIST;
CREATE TABLE threads (_id INTEGER PRIMARY KEY AUTOINCREMENT, date INTEGER, message_count INTEGER, recipient_ids TEXT, snippet TEXT, read INTEGER DEFAULT 1);
CREATE TABLE canonical_addresses (_id INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT);
CREATE TABLE sms (_id INTEGER PRIMARY KEY, thread_id INTEGER, address TEXT, date INTEGER, date_sent INTEGER, read INTEGER DEFAULT 0, status INTEGER DEFAULT -1, type INTEGER, body TEXT, seen INTEGER DEFAULT 0);
INSERT INTO canonical_addresses VALUES ${rows(withWhom.map((who, index) => [index + 1, PEOPLE[who].numbers[0]]))};
INSERT INTO threads VALUES ${rows(withWhom.map((_, index) => [index + 1, START, 65, String(index + 1), SAID[index], 1]))};
INSERT INTO sms VALUES ${rows(all)};
DELETE FROM sms WHERE thread_id = 1 AND date BETWEEN ${Date.UTC(2026, 4, 2)} AND ${Date.UTC(2026, 4, 9)};
DELETE FROM sms WHERE _id % 23 = 7;
`;
};

const CALLS = (): string => `
PRAGMA page_size=4096; PRAGMA secure_delete=OFF;
CREATE TABLE calls (_id INTEGER PRIMARY KEY AUTOINCREMENT, number TEXT, date INTEGER, duration INTEGER, type INTEGER, name TEXT, new INTEGER, geocoded_location TEXT);
INSERT INTO calls VALUES ${rows(
  Array.from({ length: 160 }, (_, index) => {
    const { name, numbers } = PEOPLE[(index * 3) % PEOPLE.length];
    return [index + 1, numbers[0], START + index * 3 * HOUR, (index * 53) % 600, 1 + (index % 3), name, 0, "Oberlauben"];
  }),
)};
DELETE FROM calls WHERE _id % 7 = 1 AND date > ${Date.UTC(2026, 4, 1)};
`;

const CALENDAR = (): string => `
PRAGMA page_size=4096; PRAGMA secure_delete=OFF;
CREATE TABLE Calendars (_id INTEGER PRIMARY KEY,account_name TEXT,account_type TEXT,calendar_displayName TEXT,visible INTEGER NOT NULL DEFAULT 1,deleted INTEGER NOT NULL DEFAULT 0);
CREATE TABLE Events (_id INTEGER PRIMARY KEY AUTOINCREMENT,calendar_id INTEGER NOT NULL,title TEXT,eventLocation TEXT,description TEXT,dtstart INTEGER,dtend INTEGER,eventTimezone TEXT,duration TEXT,allDay INTEGER NOT NULL DEFAULT 0,rrule TEXT,deleted INTEGER NOT NULL DEFAULT 0);
CREATE TABLE Attendees (_id INTEGER PRIMARY KEY,event_id INTEGER,attendeeName TEXT,attendeeEmail TEXT,attendeeStatus INTEGER);
INSERT INTO Calendars VALUES (1,'wagon','org.example.account','Tour',1,0);
INSERT INTO Events VALUES ${rows(
  [
    "Lantern Wharf, load-in",
    "Teatrul Lumina, evening show",
    "Dentist",
    "Paint the fox",
    "Oberlauben, two shows",
    "Moon rig inspection",
  ].map((title, index) => [
    index + 1,
    1,
    title,
    index % 2 ? "Oberlauben" : "Lantern Wharf",
    null,
    START + index * 72 * HOUR,
    START + (index * 72 + 3) * HOUR,
    "UTC",
    null,
    0,
    null,
    0,
  ]),
)};
INSERT INTO Attendees VALUES (1,1,'Ana Dorin','ana@strings.example',1),(2,2,'Ilse Marwitz','ilse@wagon.example',1);
DELETE FROM Events WHERE _id=3;
`;

/** Who stands in the troupe's messenger, and its rooms: those of two, then those of several. */
const TROUPE = [OWNER, 0, 1, 2, 3, 7, 8] as const;
const ROOMS: readonly (readonly number[])[] = [[1], [2], [3], [4], [5], [1, 2, 3, 4], [2, 5, 6]];
const GROUPS = [null, null, null, null, null, "Wagon crew", "Moon rig"];

/** Names of pictures that letters carry. The last one of them lies nowhere any more. */
export const SENT_PICTURES = Array.from({ length: 6 }, (_, index) => `FW${1240 + index}.JPG`);

/** A messenger with a table of people, one of rooms and one of letters. Some letters carry a picture. */
const FADENWERK = (): string => {
  const random = seeded(7);
  const all = Array.from({ length: 420 }, (_, index) => {
    const room = index % 2 === 0 ? 0 : Math.floor(random() * ROOMS.length);
    const others = ROOMS[room];
    const isOwn = random() < 0.4;
    const author = isOwn ? 0 : others[Math.floor(random() * others.length)];
    const picture = index % 29 === 11 ? SENT_PICTURES[Math.floor(index / 29) % SENT_PICTURES.length] : null;
    const at = START + Math.floor(index * 1.4 * HOUR + random() * HOUR);
    const words = picture ? null : `${SAID[(index * 7) % SAID.length]} ${MORE[Math.floor(random() * MORE.length)]}`;
    return [
      index + 1,
      room + 1,
      author + 1,
      at,
      words,
      isOwn ? 1 : 0,
      picture && `/storage/emulated/0/Fadenwerk/${picture}`,
      picture && "image/jpeg",
    ];
  });
  return `
PRAGMA page_size=4096; PRAGMA secure_delete=OFF;
CREATE TABLE person (person_id INTEGER PRIMARY KEY, handle TEXT, shown_name TEXT, phone TEXT);
CREATE TABLE room (room_id INTEGER PRIMARY KEY, subject TEXT, is_group INTEGER);
CREATE TABLE room_person (room_id INTEGER, person_id INTEGER);
CREATE TABLE letter (letter_id INTEGER PRIMARY KEY, room_id INTEGER, author_id INTEGER, sent_at INTEGER, words TEXT, from_me INTEGER, file_path TEXT, file_type TEXT);
INSERT INTO person VALUES ${rows(TROUPE.map((who, index) => [index + 1, PEOPLE[who].handle, PEOPLE[who].name, PEOPLE[who].numbers[0]]))};
INSERT INTO room VALUES ${rows(ROOMS.map((_, index) => [index + 1, GROUPS[index], GROUPS[index] === null ? 0 : 1]))};
INSERT INTO room_person VALUES ${rows(ROOMS.flatMap((others, room) => [0, ...others].map((who) => [room + 1, who + 1])))};
INSERT INTO letter VALUES ${rows(all)};
DELETE FROM letter WHERE room_id=1 AND sent_at BETWEEN ${Date.UTC(2026, 4, 2)} AND ${Date.UTC(2026, 4, 9)};
DELETE FROM letter WHERE letter_id % 31 = 3;
`;
};

/** Another one: conversations by the number of whom they are with, times in seconds, the text in JSON. */
const LAMPWICK = (): string => {
  const random = seeded(19);
  const peers = [1, 2, 7, 8, 9, 0];
  const all = Array.from({ length: 300 }, (_, index) => {
    const who = PEOPLE[peers[Math.floor(random() * peers.length)]];
    const at = Math.floor(START / 1000) + index * 5400 + Math.floor(random() * 1800);
    const body = `${SAID[(index * 11) % SAID.length]} ${MORE[Math.floor(random() * MORE.length)]}`;
    return [index + 1, who.numbers[0], random() < 0.45 ? "out" : "in", at, JSON.stringify({ v: 1, body })];
  });
  return `
PRAGMA page_size=4096; PRAGMA secure_delete=OFF;
CREATE TABLE wick (wick_id INTEGER PRIMARY KEY, peer TEXT, way TEXT, stamp INTEGER, payload TEXT);
INSERT INTO wick VALUES ${rows(all)};
DELETE FROM wick WHERE wick_id BETWEEN 90 AND 120;
`;
};

/** Databases by where they lie under /data, and the commands that make each. */
export const theatreDatabases = (): ReadonlyMap<string, string> =>
  new Map([
    ["data/com.android.providers.contacts/databases/contacts2.db", CONTACTS()],
    ["data/com.android.providers.contacts/databases/calllog.db", CALLS()],
    ["data/com.android.providers.telephony/databases/mmssms.db", MESSAGES()],
    ["data/com.android.providers.calendar/databases/calendar.db", CALENDAR()],
    ["data/org.fadenwerk.talk/databases/fadenwerk.db", FADENWERK()],
    ["data/net.lampwick.post/databases/lampwick.db", LAMPWICK()],
  ]);
