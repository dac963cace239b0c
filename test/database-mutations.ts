import { unpackBackup } from "../core/backup/unpack.ts";
import { memorySource } from "../core/bytes/memory-source.ts";
import { packBackup } from "../demo/pack-backup.ts";
import { seeded } from "../demo/random.ts";
import { allRows, databaseBytes, sourcesOfBytes } from "./kept-databases.ts";
import { type MutationReport, runCases } from "./mutations.ts";

/** Bytes that break arithmetic more often than chance ones do. */
const EVIL = [0, 1, 2, 5, 10, 13, 0x7f, 0x80, 0xff];
/** A database is cut to this many bytes, so that thousands of cases are read in minutes. */
const SMALL = 64 * 1024;

/** A copy with a few stretches changed: more of them where structures lie, at the beginnings of pages. */
function broken(bytes: Uint8Array, random: () => number, pageSize: number): Uint8Array {
  const changed = bytes.slice(0, random() < 0.1 ? Math.floor(random() * bytes.length) : bytes.length);
  if (changed.length === 0) return changed;
  for (let change = 0; change < 1 + random() * 12; change++) {
    const page = Math.floor((random() * changed.length) / pageSize) * pageSize;
    const at = Math.min(changed.length - 1, page + Math.floor(random() < 0.7 ? random() * 120 : random() * pageSize));
    const value = random() < 0.6 ? EVIL[Math.floor(random() * EVIL.length)] : Math.floor(random() * 256);
    changed.fill(value, at, at + [1, 1, 2, 4][Math.floor(random() * 4)]);
  }
  return changed;
}

/** Reads databases, logs, journals and backups again and again with a few bytes of them changed. The same seed changes the same ones. */
export async function mutateDatabases(cases: number, seed: number, tell: (done: number) => void = () => {}): Promise<MutationReport> {
  const random = seeded(seed);
  const small = (bytes: Uint8Array | undefined) => bytes?.slice(0, SMALL);
  const sets = (["calendar", "calllog", "external", "mmssms-zeroed"] as const).map((name) => {
    const { main, wal, journal } = databaseBytes(name);
    return { name, main: main.slice(0, SMALL), wal: small(wal), journal: small(journal) };
  });
  const plain = new Uint8Array(40_000).map((_, index) => index % 251);
  const backups = [packBackup(plain), packBackup(plain, { compressed: false }), packBackup(plain, { passphrase: "rig", rounds: 3 })].map(
    (one) => new Uint8Array(one),
  );
  /** Rows of a broken database: each is read to its last value. */
  const rowsOf = async (set: (typeof sets)[number]): Promise<number> => {
    const pageSize = set.name === "calendar" ? 1024 : 4096;
    const some = {
      main: broken(set.main, random, pageSize),
      wal: set.wal && broken(set.wal, random, pageSize + 24),
      journal: set.journal && broken(set.journal, random, pageSize + 8),
    };
    const rows = (await allRows(sourcesOfBytes(some)))?.rows ?? [];
    return rows.filter((row) => row.values.length > 0 && row.condition !== "remnant").length;
  };
  const piecesOf = async (backup: Uint8Array): Promise<number> => {
    let pieces = 0;
    for await (const piece of unpackBackup(memorySource(broken(backup, random, 512), "b.ab"), "rig", () => {}))
      pieces += Number(piece.length > 0);
    return pieces;
  };
  return runCases(
    cases,
    (index) => {
      const set = sets[index % sets.length];
      const backup = index % 4 === 3 ? backups[Math.floor(random() * backups.length)] : null;
      return {
        named: `case ${index} of seed ${seed}, ${backup ? "a backup" : set.name}`,
        run: () => (backup ? piecesOf(backup) : rowsOf(set)),
      };
    },
    tell,
  );
}
