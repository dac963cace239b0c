import { type Fault, faultySource } from "../core/bytes/faulty-source.ts";
import { memorySource } from "../core/bytes/memory-source.ts";
import type { ByteSource } from "../core/bytes/source.ts";
import { FatCard } from "./fat-card.ts";
import { databaseBytes } from "./kept-databases.ts";
import { DISK_IMAGES, diskBytes } from "./kept-images.ts";
import { jpegOf, noise, pngOf } from "./pictures.ts";
import { practiceCard } from "./scanning.ts";

/** A worn card of databases: present ones, erased ones, pages of theirs that lie about, an export, pictures; and sectors that do not read. */
export function databaseCard(copies = 0): { bytes: Uint8Array; dead: Fault[] } {
  const card = new FatCard({ mebibytes: 40 }).makeFolder("/data");
  const { main: calls, journal } = databaseBytes("calllog");
  const { main: external, wal } = databaseBytes("external");
  card.put("/data/calllog.db", calls).put("/data/calllog.db-journal", journal ?? noise(0));
  card.put("/data/external.db", external).put("/data/external.db-wal", wal ?? noise(0));
  for (let copy = 0; copy < copies; copy++) card.put(`/data/external${copy}.db`, external).put(`/data/calllog${copy}.db`, calls);
  card.put("/data/gone.db", databaseBytes("mmssms-zeroed").main).put("/data/friends.vcf", cards(40));
  for (let number = 0; number < 12; number++)
    card.put(`/data/p${number}.jpg`, jpegOf(160 + number, 120, number)).put(`/data/d${number}.png`, pngOf(60, 40 + number, number));
  for (let number = 0; number < 12; number += 2) card.erase(`/data/p${number}.jpg`).erase(`/data/d${number + 1}.png`);
  card.erase("/data/gone.db").erase("/data/friends.vcf");
  const bytes = card.bytes();
  card.remove();
  // Pages of the calendar and of the calls, where nothing is: rows that a database tells of too, and rows that none does.
  const free = bytes.length - 8 * 1024 * 1024;
  bytes.set(databaseBytes("calendar").main.subarray(4096, 4096 * 9), free);
  bytes.set(calls.subarray(4096, 4096 * 5), free + 1024 * 1024);
  bytes.set(jpegOf(500, 300, 77), free + 2 * 1024 * 1024);
  const dead = [free + 4096 * 3, free + 2 * 1024 * 1024 + 20_480, 3_000_320, 5_000_192].map((start) => ({
    start: Math.floor(start / 512) * 512,
    length: 1024,
    behaviour: "dead" as const,
  }));
  return { bytes, dead };
}

/** The least that has rows and pages to lose: one database with its journal, and an erased one. */
export function smallDatabaseCard(): Uint8Array {
  const card = new FatCard().makeFolder("/data");
  const { main: calls, journal } = databaseBytes("calllog");
  card.put("/data/calllog.db", calls).put("/data/calllog.db-journal", journal ?? noise(0));
  card.put("/data/gone.db", databaseBytes("calendar").main).erase("/data/gone.db");
  const bytes = card.bytes();
  card.remove();
  return bytes;
}

function wornCard(): ByteSource {
  const { bytes, dead } = databaseCard();
  return faultySource(memorySource(bytes, "worn card"), dead, async () => {});
}

const cards = (count: number): Uint8Array =>
  new TextEncoder().encode(
    Array.from(
      { length: count },
      (_, number) => `BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Friend ${number}\r\nTEL:+40 ${700_000 + number}\r\nEND:VCARD\r\n`,
    ).join(""),
  );

/** Media that scans are broken on. */
export const BREAK_MEDIA: readonly (readonly [string, () => ByteSource])[] = [
  ["theatre-card", practiceCard],
  ["worn card of databases", wornCard],
  ...DISK_IMAGES.map((name) => [name, () => memorySource(diskBytes(name), name)] as const),
];
