import { z } from "zod";
import { UnusableError } from "../bytes/source.ts";

/** What a technician knows of a model: where its keys are, which ones lead where, which system images are known. */
export const KEYS = ["volume up", "volume down", "home", "power"] as const;
export type PhoneKey = (typeof KEYS)[number];
export const MODES = ["recovery", "bootloader", "download"] as const;
export type KeyMode = (typeof MODES)[number];

const Hold = z.object({
  /** Held together, the phone being off, until the mode's screen shows. */
  hold: z.array(z.enum(KEYS)).min(1).max(4),
  /** Pressed then, to accept. */
  accept: z.enum(KEYS).nullable(),
});
export type Hold = z.infer<typeof Hold>;

export const ModelCard = z.object({
  maker: z.string().trim().min(1).max(60),
  model: z.string().trim().min(1).max(60),
  /** Seen from the front. */
  keysAt: z.object({ volume: z.enum(["left", "right"]), power: z.enum(["left", "right"]), home: z.boolean() }),
  /** Null: this model has no such mode. */
  modes: z.object({ recovery: Hold.nullable(), bootloader: Hold.nullable(), download: Hold.nullable() }),
  /** Build codes of system images that are known to be good. */
  builds: z.array(z.string().trim().min(1).max(64)).max(200),
  notes: z.string().max(2000),
});
export type ModelCard = z.infer<typeof ModelCard>;

/** A file of model cards, as it is imported and exported. */
const CardFile = z.object({ jubar: z.literal("model cards"), version: z.literal(1), cards: z.array(ModelCard).max(2000) });
const MAX_FILE = 4 * 1024 * 1024;

/** The keys of most phones, by whether they have a home key. Common practice, no source. */
const USUAL_MODES: Readonly<Record<"with home key" | "without", ModelCard["modes"]>> = {
  without: {
    recovery: { hold: ["volume up", "power"], accept: null },
    bootloader: { hold: ["volume down", "power"], accept: null },
    download: { hold: ["volume down", "power"], accept: "volume up" },
  },
  "with home key": {
    recovery: { hold: ["volume up", "home", "power"], accept: null },
    bootloader: { hold: ["volume down", "power"], accept: null },
    download: { hold: ["volume down", "home", "power"], accept: "volume up" },
  },
};

/** The card of a phone that nobody wrote one for. */
export const usualCard = (home: boolean): ModelCard => ({
  maker: "any",
  model: home ? "phone with a home key" : "phone without a home key",
  keysAt: { volume: "right", power: "right", home },
  modes: USUAL_MODES[home ? "with home key" : "without"],
  builds: [],
  notes: "What most phones do. Write a card for this model when it differs.",
});

/** Models that practice phones have: invented, like their maker. */
export const PRACTICE_CARDS: readonly ModelCard[] = [
  {
    maker: "Corvane",
    model: "Siskin 3",
    keysAt: { volume: "right", power: "right", home: false },
    modes: { ...USUAL_MODES.without, download: null },
    builds: ["LK3.210805.004"],
    notes: "Volume keys above the power key. Has no download mode.",
  },
  {
    maker: "Corvane",
    model: "Tern One",
    keysAt: { volume: "left", power: "right", home: true },
    modes: USUAL_MODES["with home key"],
    builds: ["TN1.190711.017"],
    notes: "Hold the home key firmly: it is a real switch.",
  },
];

export const sameModel = (a: Pick<ModelCard, "maker" | "model">, b: Pick<ModelCard, "maker" | "model">): boolean =>
  `${a.maker} ${a.model}`.toLowerCase() === `${b.maker} ${b.model}`.toLowerCase();

/** The card whose maker and model stand in what a ticket calls the device, or null. The longest model name wins. */
export function cardFor(device: string, cards: readonly ModelCard[]): ModelCard | null {
  const words = device.toLowerCase();
  const fitting = cards.filter(({ model }) => words.includes(model.toLowerCase()));
  return fitting.sort((a, b) => b.model.length - a.model.length)[0] ?? null;
}

/** @throws UnusableError in plain words, naming the place, for a file that holds no such cards */
export function cardsFromFile(text: string): ModelCard[] {
  let said: unknown = null;
  try {
    if (text.length <= MAX_FILE) said = JSON.parse(text);
  } catch {
    // Said below.
  }
  const file = CardFile.safeParse(said);
  if (file.success) return file.data.cards;
  const [issue] = file.error.issues;
  throw new UnusableError(
    issue.path[0] === "cards" && issue.path.length > 1
      ? `Card ${Number(issue.path[1]) + 1} is not complete: ${issue.path.slice(2).join(" ") || "the card"}: ${issue.message}`
      : "This file holds no model cards.",
  );
}

export const cardsToFile = (cards: readonly ModelCard[]): string =>
  `${JSON.stringify({ jubar: "model cards", version: 1, cards }, null, 2)}\n`;
