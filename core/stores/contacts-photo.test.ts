import initSqlJs from "sql.js";
import { expect, test } from "vitest";
import { jpegOf } from "../../test/pictures.ts";
import { gatheredOf } from "../../test/read-messenger.ts";
import type { ContactValues } from "../finds/record.ts";
import { CONTACTS } from "./contacts.ts";

test("the small picture of a contact stands on its card, of an erased one too; what is no small picture does not (CommonDataKinds.Photo)", async () => {
  const SQL = await initSqlJs();
  const book = new SQL.Database();
  const columns = Array.from({ length: 15 }, (_, index) => `data${index + 1}`);
  book.run(`PRAGMA page_size=4096; PRAGMA secure_delete=OFF;
    CREATE TABLE mimetypes (_id INTEGER PRIMARY KEY, mimetype TEXT NOT NULL);
    INSERT INTO mimetypes VALUES (7,'vnd.android.cursor.item/name'),(10,'vnd.android.cursor.item/photo');
    CREATE TABLE raw_contacts (_id INTEGER PRIMARY KEY, version INTEGER NOT NULL, deleted INTEGER NOT NULL, contact_id INTEGER, display_name TEXT);
    CREATE TABLE data (_id INTEGER PRIMARY KEY, mimetype_id INTEGER NOT NULL, raw_contact_id INTEGER NOT NULL, ${columns.join(",")});`);
  // Every second one is larger than a page: its bytes lie in a chain of overflow pages.
  const faces = Array.from({ length: 40 }, (_, index) =>
    index % 2 === 1 ? jpegOf(96 + index, 96, index + 1, 95) : jpegOf(24 + index, 24, index + 1, 60),
  );
  expect(faces[1].length).toBeGreaterThan(4096);
  expect(faces[0].length).toBeLessThan(2048);
  for (const [index, face] of faces.entries()) {
    const name = `Puppet ${String.fromCharCode(65 + (index % 26))}${index}`;
    book.run("INSERT INTO raw_contacts VALUES (?,1,0,?,?)", [index + 1, index + 1, name]);
    book.run("INSERT INTO data (mimetype_id, raw_contact_id, data1) VALUES (7,?,?)", [index + 1, name]);
    // One has a text where the picture should be.
    const picture = index === 5 ? new TextEncoder().encode("<svg onload=alert(1)>") : face;
    book.run("INSERT INTO data (mimetype_id, raw_contact_id, data15) VALUES (10,?,?)", [index + 1, picture]);
  }
  for (const gone of [3, 17, 30])
    book.run("DELETE FROM data WHERE raw_contact_id=?", [gone]).run("DELETE FROM raw_contacts WHERE _id=?", [gone]);
  const bytes = book.export();
  book.close();
  const contacts = CONTACTS.read(await gatheredOf(bytes));
  const faceOf = (number: number) => {
    const one = contacts.find(({ values }) =>
      (values as ContactValues).name?.endsWith(String.fromCharCode(65 + ((number - 1) % 26)) + (number - 1)),
    );
    const photo = (one?.values as ContactValues | undefined)?.photo;
    return { state: one?.state, bytes: photo && Buffer.from(photo.split(",")[1], "base64").equals(faces[number - 1]) };
  };
  expect(faceOf(1)).toEqual({ state: "present", bytes: true });
  expect(faceOf(6)).toEqual({ state: "present", bytes: undefined });
  expect(contacts.filter(({ state, values }) => state === "present" && (values as ContactValues).photo).length).toBe(36);
  expect(faceOf(2)).toEqual({ state: "present", bytes: true });
  expect(faceOf(17)).toEqual({ state: "erased", bytes: true });
  // Of the pages of an erased large one the list of free pages may hold other things by now: then there is no picture, and never half of one.
  expect(faceOf(30).bytes ?? true).toBe(true);
});
