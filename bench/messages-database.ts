import { madeDatabase } from "./made-database.ts";

/** Rows that fill about 1 GiB, a tenth of which is deleted afterwards. */
const MESSAGES = 3_740_000;
const DELETED_ONE_IN = 10;

/** A messages database, of about 1 GiB unless another number of messages is given, made by the stock sqlite3 program: bodies of 20 to 380 bytes, a tenth of the rows deleted. */
export function messagesDatabase(path: string, messages = MESSAGES): string {
  return madeDatabase(
    path,
    `
CREATE TABLE sms (_id INTEGER PRIMARY KEY, thread_id INTEGER, address TEXT, date INTEGER, date_sent INTEGER DEFAULT 0, read INTEGER DEFAULT 0,
  status INTEGER DEFAULT -1, type INTEGER, subject TEXT, body TEXT, service_center TEXT, locked INTEGER DEFAULT 0, seen INTEGER DEFAULT 0);
CREATE INDEX threadIdDateIndex ON sms (thread_id, date);
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${messages})
INSERT INTO sms SELECT i, i % 400, '+4477009' || (10000 + i % 400), 1690000000000 + i * 61000, 1690000000000 + i * 61000 - 900, i % 7 > 0, -1, 1 + i % 2, NULL,
  substr('The van leaves at seven, bring the moon rig and a spare gusset. Who has the key to the second trailer? House was full tonight, they loved the crocodile! Rehearsal moved to Wednesday, load-in is at nine and the bridge planks are still wet. Can you restring the control bar before the matinee? It snapped in the third act. Fee paid, receipt follows. ' || i, 1 + (i * 7) % 60, 20 + (i * 37) % 360),
  '+447700900999', 0, 1 FROM n;
DELETE FROM sms WHERE (_id * 2654435761) % 4294967296 < 4294967296 / ${DELETED_ONE_IN};
`,
  );
}
