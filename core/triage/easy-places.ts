import type { Intake } from "./intake.ts";

/** A place to look first: minutes, no risk. */
export interface EasyPlace {
  readonly what: string;
  /** Last days that things are kept there, YYYY-MM-DD, likely first. Empty: no last day. */
  readonly until: readonly string[];
  readonly how: string;
}

/** Days that a phone's own bins keep things, and the two spans that online bins have. */
const PHONE_BIN_DAYS = 30;
const ONLINE_BIN_DAYS = [30, 15];

const DAY = 86_400_000;
const after = (day: string, days: number): string => new Date(Date.parse(day) + days * DAY).toISOString().slice(0, 10);

/** The easy places, with their last days where the day of the loss is known. */
export function easyPlaces(intake: Intake): EasyPlace[] {
  const { lostOn, wants } = intake;
  const places: EasyPlace[] = [];
  const files = wants.length === 0 || wants.some(({ kind }) => ["any kind", "photos", "videos", "sound", "documents"].includes(kind));
  const people = wants.length === 0 || wants.some(({ kind }) => ["any kind", "contacts"].includes(kind));
  if (files) {
    places.push({
      what: "The phone's own bins (gallery, file manager)",
      until: lostOn ? [after(lostOn, PHONE_BIN_DAYS)] : [],
      how: "binned files keep their place under another name: nothing has to be dug out",
    });
    places.push({
      what: "Online bin of the owner's account",
      until: lostOn ? ONLINE_BIN_DAYS.map((days) => after(lostOn, days)) : [],
      how: "most keep 30 days, some only 15",
    });
  }
  if (people)
    places.push({
      what: "Contacts that are only hidden",
      until: [],
      how: "the address book shows chosen accounts and groups: compare what is stored with what is shown",
    });
  places.push({
    what: intake.backup === "yes" ? "The backup the customer knows of" : "Backups: online, on a computer, on an older card",
    until: [],
    how: "look inside before restoring: restoring everything may replace what is there now",
  });
  return places;
}

/** Whole days from `today` to a last day; negative when it is over. */
export const daysLeft = (until: string, today: string): number => Math.round((Date.parse(until) - Date.parse(today)) / DAY);
