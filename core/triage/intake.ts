import { z } from "zod";

/** The first talk with a customer: what is known before anything is plugged in. Everything but the customer may stay open. */
export const SYMPTOMS = [
  "glass cracked",
  "touch dead",
  "screen black",
  "got wet",
  "stuck while starting",
  "does not start",
  "wiped",
] as const;
export const LOCKS = ["open", "owner has the code", "nobody has it"] as const;
export const LOSSES = [
  "deleted by hand",
  "factory reset",
  "system update",
  "sync took it",
  "card formatted",
  "fall or water",
  "not lost, only out of reach",
] as const;
/** How much the phone was used since the loss. */
export const USES = ["off", "a little", "always"] as const;
export const CARDS = ["yes", "no"] as const;
export const WANTED = ["any kind", "photos", "videos", "sound", "documents", "contacts", "messages", "calls", "chats", "calendar"] as const;
export type Wanted = (typeof WANTED)[number];

/** A day as YYYY-MM-DD, one that the calendar has. */
const day = z.iso.date();

/** One thing that the customer asks for. */
export const Want = z.object({
  kind: z.enum(WANTED),
  /** When it was made or written: both days inclusive. */
  from: day.nullable(),
  to: day.nullable(),
  /** Whose it is: a name, a number, an address. */
  who: z.string().trim().max(200).default(""),
  /** A word, a place: as the customer says it. */
  words: z.string().trim().max(200),
});
export type Want = z.infer<typeof Want>;

export const Intake = z.object({
  contact: z.string().trim().max(120),
  symptoms: z.array(z.enum(SYMPTOMS)),
  lock: z.enum(LOCKS).nullable(),
  /** When the owner showed that the phone is theirs and agreed. Milliseconds since 1970. */
  consentAt: z.number().nullable(),
  wants: z.array(Want).max(50),
  loss: z.enum(LOSSES).nullable(),
  lostOn: day.nullable(),
  used: z.enum(USES).nullable(),
  card: z.enum(CARDS).nullable(),
  backup: z.enum(CARDS).nullable(),
  notes: z.string().max(2000),
  /** Whose numbers stand without a country code (ISO 3166-1 alpha-2). Null: it is guessed from the address books. */
  country: z
    .string()
    .regex(/^[A-Z]{2}$/)
    .nullable()
    .default(null),
});
export type Intake = z.infer<typeof Intake>;

export const blankIntake = (): Intake => ({
  contact: "",
  symptoms: [],
  lock: null,
  consentAt: null,
  wants: [],
  loss: null,
  lostOn: null,
  used: null,
  card: null,
  backup: null,
  notes: "",
  country: null,
});

const shortDay = (text: string, withMonth: boolean): string =>
  new Intl.DateTimeFormat("en-GB", { day: "numeric", ...(withMonth && { month: "short" }), timeZone: "UTC" }).format(Date.parse(text));

/** A want in a few words: "photos 2–9 May · Lantern". */
export function wantWords({ kind, from, to, who, words }: Want): string {
  const sameMonth = from?.slice(0, 7) === to?.slice(0, 7);
  const days =
    from && to
      ? from === to
        ? shortDay(from, true)
        : `${shortDay(from, !sameMonth)}–${shortDay(to, true)}`
      : from
        ? `since ${shortDay(from, true)}`
        : to
          ? `until ${shortDay(to, true)}`
          : "";
  const what = [kind === "any kind" && (words || days || who) ? "" : kind, who && `with ${who}`, days];
  return [what.filter(Boolean).join(" "), words].filter(Boolean).join(" · ");
}

/** Questions that change the forecast and have no answer yet. */
export function openAnswers(intake: Intake): string[] {
  const open: string[] = [];
  if (intake.lock === null) open.push("is it locked?");
  if (intake.wants.length === 0) open.push("what is wanted?");
  if (intake.loss === null) open.push("how was it lost?");
  if (intake.loss !== null && intake.loss !== "not lost, only out of reach") {
    if (intake.lostOn === null) open.push("when?");
    if (intake.used === null) open.push("used since?");
  }
  if (intake.card === null) open.push("is a card inside?");
  return open;
}

/**
 * May what a locked phone holds be read? Only when its owner showed that it is theirs and agreed. Without the code that
 * leaves what opens no lock: a computer that was allowed before, the card, a backup.
 */
export const mayBeOpened = ({ lock, consentAt }: Intake): boolean => lock === "open" || (lock !== null && consentAt !== null);
