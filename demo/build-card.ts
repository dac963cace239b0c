import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { closeSync, mkdtempSync, openSync, readFileSync, rmSync, truncateSync, utimesSync, writeFileSync, writeSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import type { Scene } from "./draw-scene.ts";
import { seeded } from "./random.ts";
import { type Photo, renderPhotos } from "./render.ts";

/**
 * Builds the practice card: the memory card of a travelling puppet theatre's camera phone, formatted by mkfs.vfat,
 * filled and emptied by mtools. The pictures of the tour's first days in May were erased by mistake; some days later a
 * few new ones were taken over them. Needs dosfstools, mtools, exiftool and Chromium; the result is committed, so that
 * nobody else does.
 */
const CARD = "demo/theatre-card.img.gz";
const TRUTH = "demo/theatre-card.truth.json";
const MIB = 1024 * 1024;
const CARD_BYTES = 48 * MIB;
const PARTITION_START = 1 * MIB;
/** FAT32 with LBA, as cards come from the shop. */
const PARTITION_TYPE = 0x0c;

interface Item {
  readonly photo: Photo;
  /** Folder on the card. */
  readonly folder: string;
  readonly name: string;
  readonly state: "present" | "binned" | "erased";
}

const two = (value: number): string => String(value).padStart(2, "0");
const random = seeded(2026);
const VENUES = [
  { latitude: 46.9271, longitude: 26.3709 },
  { latitude: 47.1585, longitude: 27.5864 },
  { latitude: 46.5712, longitude: 26.9054 },
];

let shots = 380;
function shot(month: number, day: number, scene: Scene, state: Item["state"], width = 1024): Item {
  const number = shots++;
  const taken = `2026:${two(month)}:${two(day)} ${two(9 + Math.floor(random() * 12))}:${two(Math.floor(random() * 60))}:${two(Math.floor(random() * 60))}`;
  const name = `SISK${String(number).padStart(4, "0")}.JPG`;
  return {
    photo: { file: `${number}.jpg`, scene, number, taken, place: random() < 0.6 ? VENUES[day % VENUES.length] : null, width },
    folder: month === 5 && day >= 2 && day <= 9 ? "DCIM/101TOUR" : "DCIM/100SISK3",
    name: state === "binned" ? `.trashed-1782${String(100_000 + number * 37)}-${name}` : name,
    state,
  };
}

const SCENES: readonly Scene[] = ["stage", "road", "stage", "workshop", "stage", "poster"];
const scene = (): Scene => SCENES[Math.floor(random() * SCENES.length)];
/** Rehearsal recordings: plain tones, so that the packed card stays small. [name, day, seconds, state] */
const RECORDINGS: readonly (readonly [string, string, number, "present" | "erased"])[] = [
  ["Probe Lantern 1.wav", "2026-03-06T17:10:00Z", 210, "present"],
  ["Probe Lantern 2.wav", "2026-03-07T18:02:00Z", 150, "erased"],
  ["Akkordeon Walzer.wav", "2026-04-02T20:15:00Z", 320, "present"],
  ["Geräusche Fähre.wav", "2026-04-23T11:40:00Z", 120, "erased"],
  ["Stimme Fuchs.wav", "2026-05-11T09:30:00Z", 240, "present"],
];
const several = (count: number, make: () => Item): Item[] => Array.from({ length: count }, make);

const before: Item[] = [
  ...[
    [2, 14],
    [2, 15],
    [3, 1],
    [3, 8],
    [3, 21],
    [3, 22],
    [4, 4],
    [4, 5],
    [4, 18],
    [4, 25],
  ].flatMap(([month, day]) => several(2, () => shot(month, day, scene(), random() < 0.25 ? "erased" : "present", 800))),
  ...several(3, () => shot(4, 26, scene(), "binned", 800)),
];
const tour: Item[] = [2, 3, 4, 5, 6, 7, 8, 9].flatMap((day) =>
  several(3 + Math.floor(random() * 4), () => shot(5, day, scene(), "erased")),
);
const posters: Item[] = ["Lantern, Plakat A3", "Moonhook – Entwurf", "Афиша май", "Gastspiel Übersicht"].map((title, index) => ({
  photo: { file: `poster${index}.png`, scene: "poster", number: 900 + index * 3, taken: null, place: null, width: 480 },
  folder: "Pictures/Plakate",
  name: `${title}.png`,
  state: index % 2 === 0 ? "erased" : "present",
}));
const after: Item[] = [12, 13, 13, 16].map((day) => shot(5, day, scene(), "present", 900));

const work = mkdtempSync(join(tmpdir(), "jubar-card-"));
const image = join(work, "card.img");
const drive = `${image}@@${PARTITION_START}`;
// The card's clock has no zone: everything is written as if in UTC.
const run = (tool: string, ...args: string[]) =>
  execFileSync(tool, args, {
    env: { ...process.env, TZ: "UTC", MTOOLS_SKIP_CHECK: "1", LC_ALL: "C.UTF-8" },
    stdio: ["ignore", "ignore", "inherit"],
  });

function format(): void {
  writeFileSync(image, "");
  truncateSync(image, CARD_BYTES);
  run(
    "mkfs.vfat",
    "-F",
    "32",
    "-s",
    "1",
    "-n",
    "SISKIN CARD",
    "-i",
    "4a554241",
    `--offset=${PARTITION_START / 512}`,
    image,
    String((CARD_BYTES - PARTITION_START) / 1024),
  );
  const entry = Buffer.alloc(16);
  entry[4] = PARTITION_TYPE;
  entry.writeUInt32LE(PARTITION_START / 512, 8);
  entry.writeUInt32LE((CARD_BYTES - PARTITION_START) / 512, 12);
  const card = openSync(image, "r+");
  writeSync(card, entry, 0, 16, 446);
  writeSync(card, Buffer.of(0x55, 0xaa), 0, 2, 510);
  closeSync(card);
}

const pathOf = ({ folder, name }: Item): string => `${folder}/${name}`;

function put(item: Item): void {
  const local = join(work, "pictures", item.photo.file);
  const moment = item.photo.taken
    ? new Date(`${item.photo.taken.slice(0, 10).replaceAll(":", "-")}T${item.photo.taken.slice(11)}Z`)
    : new Date("2026-04-20T18:30:00Z");
  utimesSync(local, moment, moment);
  run("mcopy", "-m", "-i", drive, local, `::${pathOf(item)}`);
}

/**
 * Writes the free-cluster hint of the FSInfo sector (field FSI_Nxt_Free of the FAT document): another device leaves it
 * elsewhere, so new files go into freed space. `content` is a picture whose place is hinted at; null hints at nothing.
 */
function hint(content: Buffer | null): void {
  const card = readFileSync(image);
  const reserved = card.readUInt16LE(PARTITION_START + 14);
  const dataAt = PARTITION_START + (reserved + 2 * card.readUInt32LE(PARTITION_START + 36)) * 512;
  card.writeUInt32LE(content ? (card.indexOf(content) - dataAt) / 512 + 2 : 0xffff_ffff, PARTITION_START + 512 + 492);
  writeFileSync(image, card);
}

const remove = (items: readonly Item[]) => {
  for (const item of items.filter(({ state }) => state === "erased")) run("mdel", "-i", drive, `::${pathOf(item)}`);
};
const contentOf = (item: Item): Buffer => readFileSync(join(work, "pictures", item.photo.file));

/** A RIFF/WAVE file of 8-bit mono PCM at 22,050 Hz ("Multimedia Programming Interface and Data Specifications 1.0", 1991): a slow tune of square tones. */
function recording(seconds: number, seed: number): Buffer {
  const rate = 22_050;
  const notes = seeded(seed);
  const data = Buffer.alloc(seconds * rate);
  for (let second = 0; second < seconds; second++) {
    const period = 40 + Math.floor(notes() * 120);
    for (let at = 0; at < rate; at++) data[second * rate + at] = at % period < period / 2 ? 150 : 106;
  }
  const header = Buffer.alloc(44);
  header.write("RIFF", 0);
  header.writeUInt32LE(36 + data.length, 4);
  header.write("WAVEfmt ", 8);
  header.writeUInt32LE(16, 16);
  header.writeUInt16LE(1, 20);
  header.writeUInt16LE(1, 22);
  header.writeUInt32LE(rate, 24);
  header.writeUInt32LE(rate, 28);
  header.writeUInt16LE(1, 32);
  header.writeUInt16LE(8, 34);
  header.write("data", 36);
  header.writeUInt32LE(data.length, 40);
  return Buffer.concat([header, data]);
}

function putRecordings(from: number, to: number): void {
  for (const [index, [name, day, seconds]] of RECORDINGS.slice(from, to).entries()) {
    const local = join(work, "recording.wav");
    writeFileSync(local, recording(seconds, from + index));
    utimesSync(local, new Date(day), new Date(day));
    run("mcopy", "-m", "-i", drive, local, `::Recordings/${name}`);
  }
}

const all = [...before, ...tour, ...posters, ...after];
process.stdout.write(`drawing ${all.length} pictures…\n`);
await renderPhotos(
  all.map(({ photo }) => photo),
  join(work, "pictures"),
);
format();
for (const folder of ["DCIM", "DCIM/100SISK3", "DCIM/101TOUR", "Pictures", "Pictures/Plakate", "Documents", "Recordings"])
  run("mmd", "-i", drive, `::${folder}`);
const half = before.length / 2;
for (const item of before.slice(0, half)) put(item);
putRecordings(0, 2);
for (const item of [...before.slice(half), ...posters]) put(item);
putRecordings(2, 4);
const programme = join(work, "Programm.txt");
writeFileSync(programme, "Wagon Theatre, summer tour\n2 May Lantern\n3 May Moonhook\n5 May The Ferryman\n8 May Nine Crows\n");
utimesSync(programme, new Date("2026-05-01T10:00:00Z"), new Date("2026-05-01T10:00:00Z"));
run("mcopy", "-m", "-i", drive, programme, "::Documents/Programm.txt");
// Old pictures were thinned out; the tour's first ones then lie in pieces in the gaps.
remove(before);
hint(null);
for (const item of tour) put(item);
putRecordings(4, 5);
remove(posters);
for (const [name, , , state] of RECORDINGS) if (state === "erased") run("mdel", "-i", drive, `::Recordings/${name}`);
// The mistake: the whole folder of the tour at once. Then four new pictures are taken over it.
run("mdeltree", "-i", drive, "::DCIM/101TOUR");
hint(contentOf(tour[Math.floor(tour.length / 2)]));
for (const item of after) put(item);

const bytes = readFileSync(image);
const truth = all.map((item) => {
  const content = contentOf(item);
  return {
    path: `/${pathOf(item)}`,
    state: item.state,
    size: content.length,
    sha256: createHash("sha256").update(content).digest("hex"),
    inOneRun: bytes.includes(content),
  };
});
writeFileSync(CARD, gzipSync(bytes, { level: 9 }));
writeFileSync(
  TRUTH,
  `${JSON.stringify({ card: { bytes: bytes.length, sha256: createHash("sha256").update(bytes).digest("hex") }, files: truth }, null, 1)}\n`,
);
rmSync(work, { recursive: true });
const lost = truth.filter(({ state, inOneRun }) => state === "erased" && !inOneRun).length;
process.stdout.write(
  `${CARD}: ${truth.length} pictures, ${truth.filter(({ state }) => state === "erased").length} erased, ${lost} of them overwritten or in pieces\n`,
);
