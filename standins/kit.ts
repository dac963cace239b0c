import { readFile } from "node:fs/promises";
import { promisify } from "node:util";
import { gunzip } from "node:zlib";
import { memorySource } from "../core/bytes/memory-source.ts";
import { PhoneFiles } from "./phone/files.ts";
import { type PhoneCard, PracticePhone } from "./phone/practice-phone.ts";

/** Practice phones that ship with Jubar. The storage behind them is the practice card: what is found on it is real. */
export const PRACTICE_PHONES: readonly (PhoneCard & { readonly state: string })[] = [
  {
    id: "lark-open",
    state: "healthy and open, debugging on",
    name: "lark3",
    model: "Lark 3",
    device: "lark",
    serial: "PRACTICE-LARK-01",
    android: "12",
    patched: "2023-04-01",
    encryption: "file",
    rooted: false,
    battery: 64,
    mode: "system",
    bootloaderUnlocked: false,
  },
  {
    id: "lark-rooted",
    state: "rooted, debugging on",
    name: "lark3",
    model: "Lark 3",
    device: "lark",
    serial: "PRACTICE-LARK-02",
    android: "8.1.0",
    patched: "2019-06-05",
    encryption: "none",
    rooted: true,
    battery: 81,
    mode: "system",
    bootloaderUnlocked: true,
  },
  {
    id: "tern-bootloader",
    state: "does not start, bootloader unlocked",
    name: "tern",
    model: "Tern One",
    device: "tern",
    serial: "PRACTICE-TERN-03",
    android: "9",
    patched: "2020-02-01",
    encryption: "none",
    rooted: false,
    battery: 55,
    mode: "bootloader",
    bootloaderUnlocked: true,
  },
  {
    id: "tern-locked",
    state: "does not start, bootloader locked",
    name: "tern",
    model: "Tern One",
    device: "tern",
    serial: "PRACTICE-TERN-04",
    android: "9",
    patched: "2020-02-01",
    encryption: "none",
    rooted: false,
    battery: 48,
    mode: "bootloader",
    bootloaderUnlocked: false,
  },
];

const IMAGE = new URL("../demo/theatre-card.img.gz", import.meta.url);

/** The storage behind all of them. It is only read, so that one is enough; unpacked when the first phone asks for it. */
let storage: Promise<PhoneFiles> | null = null;

async function openStorage(): Promise<PhoneFiles> {
  const image = memorySource(new Uint8Array(await promisify(gunzip)(await readFile(IMAGE))), "userdata");
  const files = new PhoneFiles();
  await files.addVolume("/sdcard", image);
  files.addPartition("/dev/block/by-name/userdata", image);
  return files;
}

/** Builds a practice phone. `allow`: does the person before it let every computer in? */
export async function practicePhone(id: string, allow: boolean): Promise<PracticePhone> {
  const card = PRACTICE_PHONES.find((one) => one.id === id);
  if (!card) throw new RangeError(`there is no practice phone ${id}`);
  storage ??= openStorage();
  return new PracticePhone(card, await storage, async () => allow);
}
