import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { memorySource } from "../core/bytes/memory-source.ts";
import { tarSource } from "../core/filesystems/tar/tar-source.ts";
import { portrait } from "./draw-portrait.ts";
import { packBackup } from "./pack-backup.ts";

/**
 * Builds the practice backup: a theatre's phone whose messages were thinned out. Its databases are made by the stock sqlite3
 * program; some rows are deleted, some were edited before. Needs sqlite3; the result is committed.
 */
const BACKUP = "demo/theatre-phone.ab.gz";
const PEOPLE = ["+40700000101", "+40700000102", "+40700000103", "+40700000104"];
const LINES = [
  "The Lantern is on at eight, bring the moon rig",
  "Who has the key to the second wagon?",
  "House was full tonight, they loved the crocodile!",
  "Rehearsal moved to Wednesday, the barn is still wet",
  "Can you restring the control bar before the matinee? It snapped in the third act",
  "Ana, the venue in Oberlauben wants the poster by Friday",
  "Load-in is at nine, the gate code is with Ilse",
  "Fee paid, receipt follows by post",
];
const START = Date.UTC(2026, 3, 20, 8);

const messages = Array.from({ length: 480 }, (_, index) => {
  const body = `${LINES[(index * 5) % LINES.length]} (${index + 1})`;
  const at = START + index * 3_100_000 + ((index * 7919) % 900_000);
  return `(${index + 1},${1 + (index % 4)},'${PEOPLE[index % 4]}',${at},${at - 900},0,-1,${1 + (index % 3 === 0 ? 1 : 0)},'${body}',0)`;
});
/** What the stock program is told: messages come, are read, and some are erased. */
const MESSAGES = `
PRAGMA page_size=4096; PRAGMA secure_delete=OFF; PRAGMA journal_mode=PERSIST;
CREATE TABLE threads (_id INTEGER PRIMARY KEY AUTOINCREMENT, date INTEGER, message_count INTEGER, recipient_ids TEXT, snippet TEXT, read INTEGER DEFAULT 1);
CREATE TABLE sms (_id INTEGER PRIMARY KEY, thread_id INTEGER, address TEXT, date INTEGER, date_sent INTEGER, read INTEGER DEFAULT 0, status INTEGER DEFAULT -1,
  type INTEGER, body TEXT, seen INTEGER DEFAULT 0);
CREATE INDEX threadIdDateIndex ON sms (thread_id, date);
INSERT INTO threads VALUES (1,${START},120,'1','The Lantern is on at eight',1),(2,${START},120,'2','Who has the key',1),(3,${START},120,'3','House was full',1),(4,${START},120,'4','Rehearsal moved',1);
INSERT INTO sms VALUES ${messages.join(",\n")};
UPDATE sms SET read=1, seen=1 WHERE _id < 400;
DELETE FROM sms WHERE _id % 11 = 4;
DELETE FROM sms WHERE thread_id = 2 AND _id BETWEEN 150 AND 260;
DELETE FROM threads WHERE _id = 2;
`;
const CALLS = `
PRAGMA page_size=4096; PRAGMA secure_delete=OFF;
CREATE TABLE calls (_id INTEGER PRIMARY KEY AUTOINCREMENT, number TEXT, date INTEGER, duration INTEGER, type INTEGER, name TEXT, new INTEGER, geocoded_location TEXT);
INSERT INTO calls VALUES ${Array.from({ length: 400 }, (_, index) => `(${index + 1},'${PEOPLE[index % 4]}',${START + index * 3_000_000},${(index * 53) % 600},${1 + (index % 3)},'${["Ana Dorin", "Ilse Marwitz", "Fenna Oltmans", "Gate, Oberlauben"][index % 4]}',0,'Oberlauben')`).join(",")};
DELETE FROM calls WHERE _id BETWEEN 120 AND 134 OR _id % 17 = 3;
`;
/** Lines of a card go on behind a space (RFC 2426 §2.6). */
const folded = (line: string): string => line.replace(/(.{74})(?=.)/g, "$1\r\n ");
/** Two of the three have a picture of themselves. */
const CARD = ["Ana Dorin", "Ilse Marwitz", "Fenna Oltmans"]
  .map((name, index) => {
    const photo = index < 2 ? [folded(`PHOTO;ENCODING=b;TYPE=JPEG:${Buffer.from(portrait(index)).toString("base64")}`)] : [];
    const lines = [`N:${name.split(" ").reverse().join(";")};;;`, `FN:${name}`, `TEL;TYPE=CELL:${PEOPLE[index]}`, ...photo];
    return ["BEGIN:VCARD", "VERSION:3.0", ...lines, "END:VCARD", ""].join("\r\n");
  })
  .join("");

const folder = mkdtempSync(join(tmpdir(), "jubar-backup-"));
const made = (name: string, sql: string): void => void execFileSync("sqlite3", [join(folder, name)], { input: sql });
made("mmssms.db", MESSAGES);
made("calllog.db", CALLS);
writeFileSync(join(folder, "people.vcf"), CARD);
const file = (path: string, name: string) => {
  const bytes = new Uint8Array(readFileSync(join(folder, name)));
  return { path, size: bytes.length, modified: START, content: memorySource(bytes, name) };
};
const archive = tarSource("theatre-phone", [
  file("apps/com.android.providers.telephony/db/mmssms.db", "mmssms.db"),
  file("apps/com.android.providers.telephony/db/mmssms.db-journal", "mmssms.db-journal"),
  file("apps/com.android.providers.contacts/db/calllog.db", "calllog.db"),
  file("shared/0/Download/people.vcf", "people.vcf"),
]);
writeFileSync(BACKUP, gzipSync(packBackup(await archive.read(0, archive.size), { compressed: false }), { level: 9 }));
rmSync(folder, { recursive: true });
