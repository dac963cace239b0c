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
  storage ??= openStorage();
  return new PracticePhone(card, await storage, owner?.key ?? null, willing);
}
