import { generateKeyPairSync, type KeyObject } from "node:crypto";
import { readFile } from "node:fs/promises";
import { promisify } from "node:util";
import { gunzip } from "node:zlib";
import { memorySource } from "../core/bytes/memory-source.ts";
import { PRACTICE_CARDS } from "../core/phones/model-cards.ts";
import { type ComputerKey, computerKeyOf } from "./adb/keys.ts";
import { PhoneFiles } from "./phone/files.ts";
import type { PhoneCard } from "./phone/phone-card.ts";
import { PracticePhone } from "./phone/practice-phone.ts";

const [SISKIN, TERN] = PRACTICE_CARDS;

/** A sound, open phone of either model: what the others differ from. */
const siskin = {
  card: SISKIN,
  device: "siskin",
  android: "12",
  patched: "2023-04-01",
  build: SISKIN.builds[0],
  encryption: "file",
  battery: 64,
  mode: "system",
  picture: true,
  touch: true,
  code: null,
  codeKnown: true,
  debugging: false,
  knowsOwner: false,
  rooted: false,
  bootloaderUnlocked: false,
  customRecovery: false,
  brokenSystem: false,
  slipsAfter: null,
  storage: "theatre card",
} satisfies Partial<PhoneCard>;
const tern = {
  ...siskin,
  card: TERN,
  device: "tern",
  android: "9",
  patched: "2020-02-01",
  build: TERN.builds[0],
  encryption: "none",
} as const;

/** A tinkerer's: every way into it is open. */
const TINKERED = { rooted: true, debugging: true, bootloaderUnlocked: true, mode: "system" } as const;

/** Practice phones that ship with Jubar. */
export const PRACTICE_PHONES: readonly PhoneCard[] = [
  {
    ...siskin,
    id: "siskin-healthy",
    serial: "PRACTICE-01",
    state: "healthy, debugging off",
    story: "Works, is not locked. Pictures were deleted by hand last week.",
  },
  {
    ...siskin,
    id: "siskin-touch-dead",
    serial: "PRACTICE-02",
    state: "touch dead, picture fine",
    story: "Fell on the stage: the picture is there, the glass does not answer. A mouse would.",
    touch: false,
  },
  {
    ...siskin,
    id: "siskin-black",
    serial: "PRACTICE-03",
    state: "screen black, owner's computer allowed before",
    story: "Screen black since the rain. Debugging was on; the owner brings the key of the computer that it knows.",
    picture: false,
    touch: false,
    debugging: true,
    knowsOwner: true,
  },
  {
    ...tern,
    id: "tern-stuck",
    serial: "PRACTICE-04",
    state: "stuck while starting",
    story: "Shows the maker's name for ever since the update. Debugging was on before.",
    mode: "stuck",
    brokenSystem: true,
    debugging: true,
    battery: 57,
  },
  {
    ...tern,
    id: "tern-recovery",
    serial: "PRACTICE-05",
    state: "custom recovery present",
    story: "A nephew once put a recovery with debugging on it. The screen's touch is dead.",
    touch: false,
    customRecovery: true,
  },
  {
    ...tern,
    id: "tern-unlocked",
    serial: "PRACTICE-06",
    state: "bootloader unlocked",
    story: "Does not start any more; its bootloader was unlocked when it was bought.",
    mode: "off",
    brokenSystem: true,
    bootloaderUnlocked: true,
  },
  {
    ...siskin,
    id: "siskin-locked",
    serial: "PRACTICE-07",
    state: "locked, owner knows the code",
    story: "Locked. The owner knows the code (2580) and types it.",
    code: "2580",
  },
  {
    ...siskin,
    id: "siskin-sealed",
    serial: "PRACTICE-08",
    state: "locked, nobody knows the code",
    story: "An inherited phone: nobody knows the code. Its memory card is inside.",
    code: "7391",
    codeKnown: false,
  },
  {
    ...tern,
    id: "tern-rooted",
    serial: "PRACTICE-09",
    state: "rooted, debugging on",
    story: "A tinkerer's phone: rooted, debugging on.",
    android: "8.1.0",
    patched: "2019-06-05",
    rooted: true,
    debugging: true,
    bootloaderUnlocked: true,
    battery: 81,
  },
  {
    ...siskin,
    id: "siskin-loose",
    serial: "PRACTICE-10",
    state: "worn socket, battery at 14 %",
    story: "The cable slips out, the battery is nearly empty. Debugging is on.",
    debugging: true,
    battery: 14,
    slipsAfter: 6 * 1024 * 1024,
  },
  {
    ...tern,
    ...TINKERED,
    id: "tern-letters",
    serial: "PRACTICE-11",
    state: "rooted, a conversation was erased",
    story: "What Ana wrote in the first days of May was erased, and every other picture of the tour. Storage: ext4, not encrypted.",
    storage: "ext4",
  },
  {
    ...tern,
    ...TINKERED,
    id: "tern-trimmed",
    serial: "PRACTICE-12",
    state: "rooted, free storage was trimmed",
    story: "The same loss; then it lay on the charger for a night, and the system cleared what was free.",
    storage: "ext4, trimmed",
  },
  {
    ...siskin,
    ...TINKERED,
    id: "siskin-flash",
    serial: "PRACTICE-13",
    state: "rooted, storage in F2FS",
    story: "Messages were thinned out. Its storage is F2FS, as newer phones have it.",
    encryption: "none",
    storage: "f2fs",
  },
  {
    ...siskin,
    ...TINKERED,
    id: "siskin-encrypted",
    serial: "PRACTICE-14",
    state: "rooted, every file encrypted",
    story: "Rooted, but each file is encrypted by itself: a copy of its partition shows sizes and times, and no content.",
    storage: "ext4, encrypted",
  },
];

const unpacked = async (name: string): Promise<Uint8Array> =>
  new Uint8Array(await promisify(gunzip)(await readFile(new URL(`../demo/${name}.gz`, import.meta.url))));

/** Where the storages of practice phones are kept, and under which folder their owners' files lie. What is encrypted shows its system the files of another. */
const STORAGES: Readonly<Record<PhoneCard["storage"], { readonly image: string; readonly shown?: string; readonly files: string }>> = {
  "theatre card": { image: "theatre-card.img", files: "" },
  ext4: { image: "tern-userdata.img", files: "/media/0" },
  "ext4, trimmed": { image: "tern-trimmed.img", files: "/media/0" },
  "ext4, encrypted": { image: "siskin-encrypted.img", shown: "tern-userdata.img", files: "/media/0" },
  f2fs: { image: "siskin-f2fs.img", files: "/media/0" },
};

/** Storages by name. They are only read, so that one is enough for all phones that have it; unpacked when the first of them asks for it. */
const opened = new Map<PhoneCard["storage"], Promise<PhoneFiles>>();
async function openStorage(name: PhoneCard["storage"]): Promise<PhoneFiles> {
  const { image: file, shown = file, files: from } = STORAGES[name];
  const image = memorySource(await unpacked(file), "userdata");
  const files = new PhoneFiles();
  await files.addVolume("/sdcard", shown === file ? image : memorySource(await unpacked(shown), "userdata"), from);
  files.addPartition("/dev/block/by-name/userdata", image);
  return files;
}

/** The computer that a practice phone's owner used before, with its private key as its debugging program stores it. */
export interface OwnersComputer {
  readonly key: ComputerKey;
  readonly pem: string;
}
export function ownersComputer(): OwnersComputer {
  const { privateKey, publicKey }: { privateKey: KeyObject; publicKey: KeyObject } = generateKeyPairSync("rsa", { modulusLength: 2048 });
  return { key: computerKeyOf(publicKey, "owner@wagon"), pem: String(privateKey.export({ type: "pkcs8", format: "pem" })) };
}

/** Builds a practice phone. `willing`: does somebody before it answer every question with yes? */
export async function practicePhone(id: string, willing: boolean, owner: OwnersComputer | null = null): Promise<PracticePhone> {
  const card = PRACTICE_PHONES.find((one) => one.id === id);
  if (!card) throw new RangeError(`there is no practice phone ${id}`);
  const storage = opened.get(card.storage) ?? openStorage(card.storage);
  opened.set(card.storage, storage);
  return new PracticePhone(card, await storage, owner?.key ?? null, willing);
}
