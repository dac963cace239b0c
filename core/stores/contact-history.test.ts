import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { copyFileSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, expect, test } from "vitest";
import { memorySource } from "../bytes/memory-source.ts";
import type { ContactValues } from "../finds/record.ts";
import { DatabaseFiles } from "../sqlite/files/database-files.ts";
import { recoverRows } from "../sqlite/recover.ts";
import { KNOWN_TABLES } from "../sqlite/tables/known-tables.ts";
import { CONTACTS } from "./contacts.ts";
import { Gathered } from "./gathered.ts";

/** Address books written by the stock `sqlite3`, after ContactsContract of the Android Open Source Project. */
const folder = mkdtempSync(join(tmpdir(), "jubar-history-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const day = (of: number): number => Date.UTC(2026, 3, of, 9);
const iso = (of: number): string => new Date(day(of)).toISOString();

/** What an address book looks like is learned from its rows: a few more of them. */
const OTHERS = Array.from({ length: 8 }, (_, index) => {
  const raw = index + 3;
  return `INSERT INTO data VALUES (${index + 6},1,${raw},0,'+40 700 001 10${index}',2,NULL); INSERT INTO raw_contacts VALUES (${raw},1,0,${raw},'Guest ${index}');`;
}).join("\n");

const SCHEMA = `
CREATE TABLE mimetypes (_id INTEGER PRIMARY KEY AUTOINCREMENT,mimetype TEXT NOT NULL);
CREATE TABLE raw_contacts (_id INTEGER PRIMARY KEY AUTOINCREMENT,version INTEGER NOT NULL DEFAULT 1,deleted INTEGER NOT NULL DEFAULT 0,contact_id INTEGER,display_name TEXT);
CREATE TABLE contacts (_id INTEGER PRIMARY KEY AUTOINCREMENT,name_raw_contact_id INTEGER,lookup TEXT,contact_last_updated_timestamp INTEGER);
CREATE TABLE deleted_contacts (contact_id INTEGER PRIMARY KEY,contact_deleted_timestamp INTEGER NOT NULL default 0);
CREATE TABLE data (_id INTEGER PRIMARY KEY AUTOINCREMENT,mimetype_id INTEGER NOT NULL,raw_contact_id INTEGER NOT NULL,data_version INTEGER NOT NULL DEFAULT 0,data1 TEXT,data2 TEXT,data3 TEXT);
INSERT INTO mimetypes VALUES (1,'vnd.android.cursor.item/phone_v2'),(2,'vnd.android.cursor.item/name'),(3,'vnd.android.cursor.item/email_v2');
INSERT INTO contacts VALUES (1,1,'one',${day(1)}),(2,2,'two',${day(1)});
INSERT INTO raw_contacts VALUES (1,1,0,1,'Ilse Marwitz'),(2,1,0,2,'Odile Brandt');
INSERT INTO data VALUES (1,2,1,0,'Ilse Marwitz','Ilse','Marwitz'),(2,1,1,0,'+40 700 000 001',2,NULL),(3,3,1,0,'ilse@wagon.example',1,NULL),
  (4,2,2,0,'Odile Brandt','Odile','Brandt'),(5,1,2,0,'+40 700 000 002',2,NULL);
${OTHERS}
`;
const touch = (of: number) => `UPDATE contacts SET contact_last_updated_timestamp=${day(of)} WHERE _id=1;`;
const CHANGES = [
  `BEGIN; UPDATE data SET data1='+40 700 000 011', data_version=1 WHERE _id=2; ${touch(5)} COMMIT;`,
  `BEGIN; UPDATE data SET data1='Ilse Brandt', data3='Brandt' WHERE _id=1; UPDATE raw_contacts SET display_name='Ilse Brandt' WHERE _id=1; ${touch(9)} COMMIT;`,
  `BEGIN; DELETE FROM data WHERE _id=3; ${touch(14)} COMMIT;`,
  `BEGIN; DELETE FROM data WHERE raw_contact_id=2; DELETE FROM raw_contacts WHERE _id=2; DELETE FROM contacts WHERE _id=2; INSERT INTO deleted_contacts VALUES (2,${day(20)}); COMMIT;`,
];

async function contactsIn(path: string, beside: "wal" | "journal" | null): Promise<Map<string, ContactValues>> {
  const source = (ending: string) => memorySource(new Uint8Array(readFileSync(path + ending)));
  const files = await DatabaseFiles.open({ main: source(""), ...(beside && { [beside]: source(`-${beside}`) }) });
  if (!files) throw new Error("it is no database");
  const gathered = new Gathered("e0", path);
  for await (const { rows } of recoverRows(files, KNOWN_TABLES, new AbortController().signal)) gathered.take(rows);
  return new Map(
    CONTACTS.read(gathered).map(({ values, state }) => [`${(values as ContactValues).name} ${state}`, values as ContactValues]),
  );
}

test("a log of the day: each change between the stamps that stood before and after it, the latest first; what is gone says since when", async () => {
  const path = join(folder, "contacts2.db");
  execFileSync("sqlite3", [path], { input: `PRAGMA journal_mode=WAL; ${SCHEMA}` });
  const program = spawn("sqlite3", [path]);
  program.stdin.write(`PRAGMA wal_autocheckpoint=0;\n${CHANGES.join("\n")}\n.print ready\n`);
  await new Promise((ready) => program.stdout.on("data", (told) => String(told).includes("ready") && ready(null)));
  const held = join(folder, "held.db");
  for (const ending of ["", "-wal"]) copyFileSync(path + ending, held + ending);
  program.stdin.end();
  await once(program, "close");
  const contacts = await contactsIn(held, "wal");
  const ilse = contacts.get("Ilse Brandt present");
  expect(ilse).toMatchObject({ changedAt: iso(14), phones: [{ number: "+40 700 000 011" }] });
  expect(ilse?.emails).toEqual([]);
  expect(ilse?.history).toEqual([
    { field: "mail", was: "ilse@wagon.example", after: iso(9), before: iso(14) },
    { field: "name", was: "Ilse Marwitz", became: "Ilse Brandt", after: iso(5), before: iso(9) },
    { field: "number", was: "+40 700 000 001", became: "+40 700 000 011", after: iso(1), before: iso(5) },
  ]);
  expect(contacts.get("Odile Brandt erased")).toMatchObject({ erasedAt: iso(20), phones: [{ number: "+40 700 000 002" }] });
});

test("a journal holds what stood before the last change: it is dated from both sides; without any image it was before the last change", async () => {
  const path = join(folder, "journal.db");
  const run = (input: string) => execFileSync("sqlite3", [path], { input });
  run(`PRAGMA secure_delete=OFF; PRAGMA journal_mode=PERSIST; ${SCHEMA} ${CHANGES[0]}`);
  run(`PRAGMA secure_delete=OFF; PRAGMA journal_mode=PERSIST; ${CHANGES[1]}`);
  const ilse = (await contactsIn(path, "journal")).get("Ilse Brandt present");
  const renamed = ilse?.history?.find(({ field }) => field === "name");
  expect(renamed).toEqual({ field: "name", was: "Ilse Marwitz", became: "Ilse Brandt", after: iso(5), before: iso(9) });
  // In free space of a page nothing stands beside a row that would say when it was there.
  run(`PRAGMA secure_delete=OFF; BEGIN; DELETE FROM data WHERE _id=3; DELETE FROM data WHERE _id=2; ${touch(14)} COMMIT;`);
  const alone = (await contactsIn(path, null)).get("Ilse Brandt present");
  expect(alone?.history).toContainEqual({ field: "number", was: "+40 700 000 011", before: iso(14) });
  expect(alone?.history?.every(({ after }) => after === undefined)).toBe(true);
});

test("a contact that never changed has no past, and an address book without stamps dates nothing", async () => {
  const path = join(folder, "plain.db");
  const without = SCHEMA.replace(",contact_last_updated_timestamp INTEGER", "").replaceAll(/'(one|two)',\d+\)/g, "'$1')");
  execFileSync("sqlite3", [path], {
    input: `PRAGMA secure_delete=OFF; ${without} DELETE FROM data WHERE _id=3; DELETE FROM data WHERE _id=2;`,
  });
  const contacts = await contactsIn(path, null);
  expect(contacts.get("Odile Brandt present")).toEqual(
    expect.not.objectContaining({ history: expect.anything(), changedAt: expect.anything(), erasedAt: expect.anything() }),
  );
  expect(contacts.get("Ilse Marwitz present")?.history).toContainEqual({ field: "number", was: "+40 700 000 001" });
});
