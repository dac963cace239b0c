import { debuggingSteps } from "./debugging-steps.ts";
import type { Facts } from "./facts.ts";
import type { Intake } from "./intake.ts";
import { type Condition, condition, type Need, need } from "./needs.ts";
import { settled } from "./settled.ts";
import type { Step } from "./sights.ts";
import { type Gives, worthOf } from "./worth.ts";

/** One of the ways to a phone's storage, as the trade knows them. */
export interface WayCard {
  readonly id: string;
  readonly name: string;
  readonly reaches: string;
  readonly gives: Gives;
  readonly changes: string;
  readonly risk: "none" | "low" | "some" | "high";
  /** Usual time in minutes until the storage can be read: from, to. */
  readonly minutes: readonly [number, number];
  /** Why this way has no use here, or null. */
  readonly pointless?: (phone: Condition) => string | null;
  readonly needs: (intake: Intake, facts: Facts, phone: Condition) => readonly Need[];
  readonly steps: (facts: Facts) => readonly Step[];
}

/** A way, held against what is known: how it stands, and what it lacks. */
export interface Way extends Omit<WayCard, "needs" | "steps" | "pointless"> {
  readonly needs: readonly Need[];
  readonly steps: readonly Step[];
  /** open: all it needs is met. unclear: something is not known. closed: something is missing. pointless: no use here. */
  readonly standing: "open" | "unclear" | "closed" | "pointless";
  readonly because: string | null;
}

const brokenScreen = ({ picture, touch }: Condition): boolean => picture === "missing" || touch === "missing";

/** A step that nothing on the computer can see: it counts as done when a later one is seen. */
const unseen = (words: string): Step => ({ words, sight: null });
const CONNECT: Step = { words: "Connect it with a data cable, straight to this computer.", sight: "attached" };
const ALLOW: Step = {
  words: "The phone asks to allow this computer and shows its key's fingerprint: allow it.",
  sight: "lets this computer in",
  does: "ask again",
};

/** The table of the trade, gentlest first. Common practice, no source. */
export const WAY_CARDS: readonly WayCard[] = [
  {
    id: "card",
    name: "Memory card in a reader",
    reaches: "all blocks of the card, erased ones too",
    gives: "card",
    changes: "nothing",
    risk: "none",
    minutes: [5, 30],
    needs: (intake) => [need("a card inside", intake.card === null ? null : intake.card === "yes")],
    steps: () => [
      unseen("Switch the phone off and take the card out."),
      unseen("Slide the write lock of the adapter to “lock”, then put the card into the reader."),
      { words: "Make an image of the whole card, and drop it at Copy & scan.", sight: "storage is readable" },
    ],
  },
  {
    id: "files",
    name: "File transfer over USB",
    reaches: "present files of the shared storage",
    gives: "present files",
    changes: "nothing",
    risk: "none",
    minutes: [5, 60],
    needs: (_, __, phone) => [phone.starts, need("picture and touch", both(phone)), phone.opened],
    steps: () => [
      unseen("Unlock the phone."),
      { words: "Connect it with a data cable.", sight: "attached" },
      unseen("On the phone: choose “file transfer” for this USB connection."),
      unseen("Copy what is wanted with the computer's own file manager; Jubar reads more through USB debugging."),
    ],
  },
  {
    id: "debugging",
    name: "USB debugging",
    reaches: "shared storage, bins, small copies, contacts, messages and calls, apps' backups where they allow it",
    gives: "debugging",
    changes: "debugging switched on, this computer allowed: both are taken back; nothing is installed",
    risk: "low",
    minutes: [5, 90],
    needs: (_, facts, phone) => [
      phone.starts,
      phone.opened,
      facts.debugging === true ? need("debugging is on", true) : need("debugging is on, or a screen to switch it on", both(phone)),
      need("this computer is allowed, or a screen to allow it", facts.letsIn || facts.allowedComputer ? true : both(phone)),
    ],
    steps: (facts) => [CONNECT, unseen("Unlock the phone."), ...debuggingSteps(facts.android), ALLOW],
  },
  {
    id: "rooted",
    name: "USB debugging on a rooted phone",
    reaches: "private databases and raw blocks: a deep scan",
    gives: "blocks",
    changes: "nothing, if it was rooted before",
    risk: "low",
    minutes: [10, 240],
    needs: (_, facts, phone) => [
      need("rooted already", facts.root),
      phone.starts,
      phone.opened,
      need("debugging is on, or a screen to switch it on", facts.debugging === true ? true : both(phone)),
    ],
    steps: (facts) => [
      CONNECT,
      ...debuggingSteps(facts.android),
      ALLOW,
      {
        words: "Take elevated access; the phone may ask for it: allow it there.",
        sight: "gave elevated access",
        does: "take elevated access",
      },
    ],
  },
  {
    id: "mouse",
    name: "Mouse, or adapter with a screen",
    reaches: "lets a person unlock the phone and allow debugging",
    gives: "debugging",
    changes: "the mouse itself nothing; debugging switched on and this computer allowed: both are taken back",
    risk: "none",
    minutes: [5, 20],
    pointless: (phone) => (brokenScreen(phone) ? null : "picture and touch work"),
    needs: (_, __, phone) => [phone.starts, phone.opened],
    steps: (facts) => [
      CONNECT,
      unseen("Touch dead: put a mouse on an OTG hub. A pointer appears."),
      unseen("Picture dead: take a hub that carries picture and USB, with a screen and a mouse on it."),
      unseen("Unlock the phone with it."),
      ...debuggingSteps(facts.android),
      ALLOW,
    ],
  },
  {
    id: "allowed computer",
    name: "Computer that was allowed before",
    reaches: "as USB debugging, with a dead screen",
    gives: "debugging",
    changes: "nothing",
    risk: "low",
    minutes: [10, 60],
    needs: (intake, facts, phone) => [
      need("the owner brings that computer, or its saved key", facts.allowedComputer),
      need("debugging is on", facts.debugging),
      phone.starts,
      agreed(intake),
    ],
    steps: () => [
      CONNECT,
      { words: "Ask for the computer, or for its key file (adbkey), and bring the key here.", sight: null, does: "bring key" },
      { words: "It lets that key in without asking.", sight: "lets this computer in", does: "ask again" },
    ],
  },
  {
    id: "recovery",
    name: "Recovery mode with debugging",
    reaches: "raw blocks, where they are not encrypted or the code is given",
    gives: "blocks",
    changes: "nothing, if it is only started and not installed",
    risk: "some",
    minutes: [10, 240],
    needs: (intake, facts) => [
      need(
        "such a recovery is there, or the bootloader is unlocked to start one",
        facts.customRecovery === true || facts.bootloaderUnlocked === true ? true : or(facts.customRecovery, facts.bootloaderUnlocked),
      ),
      need(
        "no encryption, or the code",
        facts.encryption === "none" ? true : intake.lock === null ? null : intake.lock !== "nobody has it",
      ),
      agreed(intake),
    ],
    steps: () => [
      unseen("Switch the phone off."),
      {
        words: "Hold the keys of recovery mode until it shows, then connect it: Jubar reads the partitions, and writes none.",
        sight: "in recovery",
        keys: "recovery",
        does: "ask again",
      },
    ],
  },
  {
    id: "bootloader",
    name: "Bootloader (fastboot) mode",
    reaches: "starts a recovery for this once",
    gives: "blocks",
    changes: "nothing; unlocking would wipe most phones and is never done to recover data",
    risk: "some",
    minutes: [10, 60],
    needs: (intake, facts) => [
      need("the bootloader is unlocked already", facts.bootloaderUnlocked),
      need("a recovery image for this model", facts.recoveryImage),
      agreed(intake),
    ],
    steps: () => [
      unseen("Switch the phone off."),
      { words: "Hold the keys of bootloader mode until it shows, then connect it.", sight: "in bootloader", keys: "bootloader" },
      {
        words: "Start the recovery image; it is gone again after the next start.",
        sight: "in recovery",
        does: "start recovery",
      },
    ],
  },
  {
    id: "download",
    name: "Download mode",
    reaches: "repairs a phone that no longer starts; then USB debugging",
    gives: "debugging",
    changes: "system partitions are written anew, the user's data never",
    risk: "high",
    minutes: [20, 90],
    pointless: (phone) => (phone.starts.state === "missing" ? null : "the phone starts"),
    needs: (intake, facts) => [need("a system image of exactly this model and build code", facts.matchingImage), agreed(intake)],
    steps: () => [
      unseen("Battery at least 20 %, better 50 %."),
      unseen("Switch the phone off."),
      { words: "Hold the keys of download mode until it shows, accept, and connect it.", sight: "in download mode", keys: "download" },
      {
        words: "Repair its system from an image of exactly this model and build code. One letter off is off.",
        sight: "repaired",
        does: "repair",
      },
      { words: "It starts again: allow this computer on the phone, if it asks.", sight: "lets this computer in", does: "ask again" },
    ],
  },
  {
    id: "screen",
    name: "New screen",
    reaches: "everything, by the usual ways",
    gives: "debugging",
    changes: "hardware",
    risk: "some",
    minutes: [40, 180],
    pointless: (phone) =>
      phone.starts.state === "missing" ? "the phone does not start" : brokenScreen(phone) ? null : "picture and touch work",
    needs: () => [need("parts and skill", null)],
    steps: () => [unseen("Copy first what can be copied without it."), unseen("Change the screen."), unseen("Go on with the usual ways.")],
  },
  {
    id: "online",
    name: "Online backup",
    reaches: "what was backed up",
    gives: "backup",
    changes: "nothing",
    risk: "none",
    minutes: [10, 120],
    needs: (intake) => [need("a backup the owner can sign in to", intake.backup === null ? null : intake.backup === "yes")],
    steps: () => [unseen("The owner signs in, on their own device."), unseen("Look inside before anything is restored.")],
  },
];

/** Said at the intake, and met only when it was ticked there. */
export const CONSENT = "owner shown, and agrees";
/** Nothing is opened behind an owner's back. A phone that stands open may be its owner's at the counter: that is to be said too. */
const agreed = ({ lock, consentAt }: Intake): Need =>
  need(CONSENT, consentAt !== null ? true : lock === "open" || lock === null ? null : false);

/** Both picture and touch: what a person needs to answer a question on the phone. */
const both = ({ picture, touch }: Condition): boolean | null =>
  picture === "missing" || touch === "missing" ? false : picture === "met" && touch === "met" ? true : null;

const or = (a: boolean | null, b: boolean | null): boolean | null => (a || b ? true : a === false && b === false ? false : null);

const ORDER: readonly Way["standing"][] = ["open", "unclear", "closed", "pointless"];

/**
 * All ways, held against what is known: those that stand open first, then those that give most of what is wanted, the gentlest first among equals. A way
 * that gives nothing of what is wanted stands behind all that may.
 */
export function waysIn(said: Intake, facts: Facts): Way[] {
  const intake = settled(said, facts);
  const phone = condition(intake, facts);
  const ways = WAY_CARDS.map(({ needs, steps, pointless, ...card }): Way => {
    const asked = needs(intake, facts, phone);
    const because = pointless?.(phone) ?? null;
    const missing = asked.some(({ state }) => state === "missing");
    const standing = because ? "pointless" : missing ? "closed" : asked.some(({ state }) => state === "unknown") ? "unclear" : "open";
    return { ...card, needs: asked, steps: steps(facts), standing, because };
  });
  const worth = new Map(ways.map((way) => [way, worthOf(way.gives, intake, facts)]));
  const isShut = ({ standing }: Way) => standing === "closed" || standing === "pointless";
  const rank = (way: Way) => (worth.get(way) === 0 && !isShut(way) ? ORDER.indexOf("unclear") + 0.5 : ORDER.indexOf(way.standing));
  return ways.sort((a, b) => rank(a) - rank(b) || (isShut(a) ? 0 : (worth.get(b) ?? 0) - (worth.get(a) ?? 0)));
}
