import { type Facts, likelyEncryption } from "./facts.ts";
import type { Intake, Wanted } from "./intake.ts";
import { type Reach, reachOf } from "./reach.ts";
import { settled } from "./settled.ts";
import { fileSurvival, USUAL_RUN } from "./survival.ts";

/** How much can be expected, in a word. */
export type Expected = "nothing" | "small copies" | "a few" | "some" | "most" | "all";

/** What can be expected of one kind at one place, and why. */
export interface Expectation {
  readonly kind: Exclude<Wanted, "any kind">;
  readonly place: "memory card" | "phone";
  readonly expected: Expected;
  /** 0 to 1, for a bar. A middle value of the model, not a promise. */
  readonly part: number;
  readonly reasons: readonly string[];
  /** What would raise it. */
  readonly raises: readonly string[];
}

export interface Forecast {
  readonly expectations: readonly Expectation[];
  /** Nothing is to be had at all: why. Said before any long work. */
  readonly nothing: string | null;
}

const FILES = ["photos", "videos", "sound", "documents"] as const;
const ROWS = ["contacts", "messages", "calls", "chats", "calendar"] as const;
type FileKind = (typeof FILES)[number];
type RowKind = (typeof ROWS)[number];

/** Usual sizes in bytes, for the chance that a file is still whole. Assumptions. */
const USUAL_SIZE: Record<FileKind, number> = { photos: USUAL_RUN, videos: 30 * USUAL_RUN, sound: USUAL_RUN, documents: USUAL_RUN / 6 };

/** Part of the free space that is written by use since the loss, where nothing was measured. Assumptions. */
const WRITTEN_BY_USE = { off: 0, "a little": 0.05, always: 0.6 } as const;
const WRITTEN_UNKNOWN = 0.2;

/** Of a quick-formatted card: files in pieces lose each other without the lists. An assumption. */
const MOST_OF_FORMATTED = 0.9;
/** Part of freed blocks that is not handed back to the flash yet. Assumptions. */
const KEPT_THOUGH_TRIMMED = 0.15;
const KEPT_UNKNOWN = 0.6;
/** What bins, small copies and the like still give of erased files where their blocks are out of reach. Assumptions. */
const SMALL_COPIES = { photos: 0.2, videos: 0.2, sound: 0.08, documents: 0.08 } as const;
/** What is only hidden, or stands in a backup of its own, of rows whose database is out of reach. Assumptions. */
const ROWS_OUT_OF_REACH = { contacts: 0.3, messages: 0.08, calls: 0.08, calendar: 0.08, chats: 0.05 } as const;
/** Of a messenger's conversations that are there, what its own export or backup gives. An assumption. */
const CHATS_BY_EXPORT = 0.4;

const NEEDS_BLOCKS = "elevated access or a raw copy";
/** Why blocks are not promised, by how the ways to them stand. */
const outOfReach = (what: string, blocks: Reach): string =>
  `${what} need ${NEEDS_BLOCKS}: ${blocks === "closed" ? "no way that stands open gives it" : "whether this phone gives it is not known yet"}`;
const RAISES_BLOCKS = "root that is there already, or a recovery that can be started: unlocking for it would wipe";

/** What a part is called. */
function wordFor(part: number): Expected {
  if (part <= 0) return "nothing";
  if (part < 0.15) return "a few";
  if (part < 0.6) return "some";
  return part < 0.97 ? "most" : "all";
}

/** Bytes written over free bytes, measured or assumed. */
function overwriting(intake: Intake, facts: Facts): { part: number; words: string } {
  if (facts.free !== null && facts.free > 0 && facts.writtenSince !== null) {
    const gigabytes = (bytes: number) => (bytes / 1e9).toFixed(1);
    return {
      part: facts.writtenSince / facts.free,
      words: `about ${gigabytes(facts.writtenSince)} of ${gigabytes(facts.free)} GB free were written since`,
    };
  }
  if (intake.used === null) return { part: WRITTEN_UNKNOWN, words: "how much was written since is not known" };
  return {
    part: WRITTEN_BY_USE[intake.used],
    words: { off: "nothing was written since", "a little": "a little was written since", always: "much was written since" }[intake.used],
  };
}

/** What can be expected, per wanted kind and place. Pure: the same answers give the same forecast. */
export function forecast(said: Intake, facts: Facts): Forecast {
  const intake = settled(said, facts);
  const asked = intake.wants.map(({ kind }) => kind);
  const any = asked.length === 0 || asked.includes("any kind");
  const wanted = [...FILES, ...ROWS].filter((kind) => asked.includes(kind) || (any && (kind === "photos" || kind === "messages")));
  const expectations = wanted.flatMap((kind) => {
    const onPhone = phoneOf(kind, intake, facts);
    const onCard = isFile(kind) && intake.card === "yes" ? [cardOf(kind, intake, facts)] : [];
    return [...onCard, onPhone];
  });
  const reasons = new Set(expectations.filter(({ expected }) => expected === "nothing").flatMap((one) => one.reasons));
  const nothing = expectations.length > 0 && expectations.every(({ expected }) => expected === "nothing") && intake.backup !== "yes";
  return { expectations, nothing: nothing ? `Nothing to expect, because ${[...reasons].join("; ")}.` : null };
}

const isFile = (kind: Expectation["kind"]): kind is FileKind => (FILES as readonly string[]).includes(kind);

/** A memory card: its blocks are all within reach, and cards are rarely trimmed. */
function cardOf(kind: FileKind, intake: Intake, facts: Facts): Expectation {
  const place = "memory card";
  if (intake.loss === "not lost, only out of reach" || intake.loss === "fall or water")
    return { kind, place, expected: "all", part: 1, reasons: ["what is present on a card is read in a reader"], raises: [] };
  // What was written on the phone went to the phone: only use of the card itself counts, and that is not measured.
  const { part, words } = overwriting(intake, { ...facts, free: null, writtenSince: null });
  const formatted = intake.loss === "card formatted";
  const whole = Math.min(formatted ? MOST_OF_FORMATTED : 1, fileSurvival(USUAL_SIZE[kind], part, 1));
  return {
    kind,
    place,
    expected: wordFor(whole),
    part: whole,
    reasons: ["cards are rarely trimmed", words, ...(formatted ? ["quick formatting takes the lists: content stays, names are lost"] : [])],
    raises: intake.used === "off" ? [] : ["take the card out now"],
  };
}

/** The phone's own storage. */
function phoneOf(kind: Expectation["kind"], intake: Intake, facts: Facts): Expectation {
  const place = "phone";
  const none = (reason: string, raises: string[] = []): Expectation => ({
    kind,
    place,
    expected: "nothing",
    part: 0,
    reasons: [reason],
    raises,
  });
  if (intake.lock === "nobody has it")
    return none("it is locked and nobody has the code", ["a computer that was allowed before, with its saved key", "a backup"]);
  const { is: encryption, guessed } = likelyEncryption(facts);
  const wiped = intake.loss === "factory reset" || intake.symptoms.includes("wiped");
  if (wiped && encryption !== "none")
    return none(
      encryption === null
        ? "a factory reset destroys the key of an encrypted phone, and most are"
        : "a factory reset destroyed the key of its encryption",
      ["the memory card", "a backup"],
    );
  const reach = reachOf(intake, facts);
  if (reach.shared === "closed") return none("no way in stands open to it", ["a way in"]);
  if (intake.loss === "not lost, only out of reach" || intake.loss === "fall or water") {
    if (kind === "chats" && reach.blocks !== "open")
      return {
        kind,
        place,
        expected: wordFor(CHATS_BY_EXPORT),
        part: CHATS_BY_EXPORT,
        reasons: [outOfReach("other apps' databases", reach.blocks), "the messenger's own export or backup still gives some"],
        raises: [RAISES_BLOCKS],
      };
    const reasons = ["nothing was erased: it only has to be reached", ...(reach.shared === "open" ? [] : ["no way in stands open yet"])];
    return { kind, place, expected: "all", part: 1, reasons, raises: reach.shared === "open" ? [] : ["a way in"] };
  }
  return isFile(kind) ? erasedFiles(kind, intake, facts, encryption, guessed, reach.blocks) : erasedRows(kind, intake, wiped, reach.blocks);
}

function erasedFiles(
  kind: FileKind,
  intake: Intake,
  facts: Facts,
  encryption: Facts["encryption"],
  guessed: boolean,
  blocks: Reach,
): Expectation {
  const base = { kind, place: "phone" } as const;
  const version = guessed && facts.android !== null ? ` (most phones with Android ${facts.android})` : "";
  if (encryption === "file based")
    return {
      ...base,
      expected: "small copies",
      part: SMALL_COPIES[kind],
      reasons: [
        `file-based encryption${version}: an erased file's key is gone with it`,
        "what is in the bins and small copies can still come back",
      ],
      raises: ["look into the bins before their last day", "a backup"],
    };
  if (blocks !== "open")
    return {
      ...base,
      expected: "small copies",
      part: SMALL_COPIES[kind],
      reasons: [outOfReach("erased blocks", blocks), "what is in the bins and small copies can still come back"],
      raises: [RAISES_BLOCKS, "look into the bins before their last day", "a backup"],
    };
  const { part, words } = overwriting(intake, facts);
  const trimmed = facts.trims ?? (encryption === "full disk" ? true : null);
  const kept = trimmed === true ? KEPT_THOUGH_TRIMMED : trimmed === null ? KEPT_UNKNOWN : 1;
  const chance = fileSurvival(USUAL_SIZE[kind], part, 1) * kept;
  return {
    ...base,
    expected: wordFor(chance),
    part: chance,
    reasons: [
      encryption === "full disk" ? `full-disk encryption${version}: erased blocks are readable only through the opened system` : words,
      ...(encryption === "full disk" ? [words] : []),
      trimmed === true
        ? "freed blocks are handed back to the flash, on most phones nightly while charging"
        : trimmed === null
          ? "whether freed blocks are handed back to the flash is not known"
          : "freed blocks are kept until they are written over",
    ],
    raises: ["do not charge it overnight"],
  };
}

/** Rows that were deleted in a database: its free pages and its log keep older ones for a while. */
function erasedRows(kind: RowKind, intake: Intake, wiped: boolean, blocks: Reach): Expectation {
  const base = { kind, place: "phone" } as const;
  if (wiped) return { ...base, expected: "nothing", part: 0, reasons: ["the databases were made anew by the reset"], raises: ["a backup"] };
  if (blocks !== "open")
    return {
      ...base,
      expected: wordFor(ROWS_OUT_OF_REACH[kind]),
      part: ROWS_OUT_OF_REACH[kind],
      reasons: [
        outOfReach(kind === "chats" ? "rows of other apps' databases" : "deleted rows of the system's databases", blocks),
        kind === "contacts" ? "contacts are often only hidden: those are seen without it" : "what stands in a backup can still come back",
      ],
      raises: [RAISES_BLOCKS, "a backup"],
    };
  const part = { off: 0.6, "a little": 0.45, always: 0.15 }[intake.used ?? "a little"];
  return {
    ...base,
    expected: wordFor(part),
    part,
    reasons: [
      kind === "contacts"
        ? "contacts are often only hidden; deleted ones stay in free pages for a while"
        : "system databases wipe some rows, their log keeps older pages for a while",
    ],
    raises: ["copy before the phone is used again"],
  };
}
