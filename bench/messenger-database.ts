import { madeDatabase } from "./made-database.ts";

/**
 * A messenger that nobody knows, made by the stock sqlite3 program: its names say nothing. `inOne`: so many of the messages are of one
 * conversation. 420,000 messages fill about 100 MiB.
 */
export function messengerDatabase(path: string, messages: number, inOne = 0): string {
  return madeDatabase(
    path,
    `
CREATE TABLE zb (ka INTEGER PRIMARY KEY, kb TEXT, kc TEXT);
CREATE TABLE zc (ka INTEGER PRIMARY KEY, kb TEXT);
CREATE TABLE za (ka INTEGER PRIMARY KEY, kb INTEGER, kc INTEGER, kd INTEGER, ke TEXT, kf TEXT, kg INTEGER);
CREATE INDEX zai ON za (kb, kd);
WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 399)
INSERT INTO zb SELECT i + 2, char(65 + i % 26) || 'nsa ' || char(65 + (i * 7) % 26) || 'orp', '+4477009' || (10000 + i) FROM n;
INSERT INTO zb VALUES (1, 'Mirela Own', '+447700900999');
INSERT INTO zc SELECT ka + 1000, kb FROM zb WHERE ka > 1;
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${messages})
INSERT INTO za SELECT i, CASE WHEN i > ${messages - inOne} THEN 1002 ELSE 1002 + i % 400 END,
  CASE WHEN (i / 7) % 2 = 0 THEN 1 WHEN i > ${messages - inOne} THEN 2 ELSE 2 + i % 400 END, 1690000000000 + i * 61000,
  substr('The van leaves at seven, bring the moon rig and a spare gusset. Who has the key to the second trailer? House was full tonight, they loved the crocodile! Rehearsal moved to Wednesday, load-in is at nine and the bridge planks are still wet. Can you restring the control bar before the matinee? It snapped in the third act. Fee paid, receipt follows. ' || i, 1 + (i * 7) % 60, 20 + (i * 37) % 360) || ' ' || i,
  NULL, i % 3 FROM n;
DELETE FROM za WHERE ka % 17 = 3;
`,
  );
}
