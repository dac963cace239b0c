import type { PracticePhone } from "./practice-phone.ts";

/** What is drawn on a practice phone: a plain page of an invented system. */
export interface Screen {
  /** Is anything to be seen? */
  readonly lit: boolean;
  readonly title: string;
  readonly lines: readonly string[];
  readonly buttons: readonly { readonly id: string; readonly label: string }[];
  /** Does a touch reach anything? */
  readonly answers: boolean;
}

type Shown = Pick<Screen, "title" | "lines" | "buttons">;
const page = (title: string, lines: readonly string[], ...buttons: readonly (readonly [string, string])[]): Shown => ({
  title,
  lines,
  buttons: buttons.map(([id, label]) => ({ id, label })),
});
const BACK = ["home", "Back"] as const;

/** What the phone shows now. A dark or dead screen shows nothing, whatever goes on behind it. */
export function screenOf(phone: PracticePhone): Screen {
  const lit = phone.card.picture && (phone.mode !== "off" || phone.accepting);
  const shown = lit ? pageOf(phone) : page("", []);
  return { lit, ...shown, answers: phone.answersTouch };
}

function pageOf(phone: PracticePhone): Shown {
  const { card, battery } = phone;
  if (phone.accepting) return page("Download mode?", ["A wrong image can end this phone.", "Volume up: go on. Any other key: off."]);
  switch (phone.mode) {
    case "stuck":
      return page(card.card.maker, ["starting…"]);
    case "recovery":
      return page("Recovery", [
        `${card.card.model}, ${card.build}`,
        phone.usb === "mute" ? "the maker's own: no debugging" : "debugging is on",
      ]);
    case "bootloader":
      return page("Bootloader", [card.card.model, card.bootloaderUnlocked ? "unlocked" : "locked", `battery ${battery} %`]);
    case "download":
      return page("Download mode", [card.card.model, card.build, "Do not pull the cable."]);
    default:
      return systemPage(phone);
  }
}

const QUESTIONS: Record<NonNullable<PracticePhone["question"]>["kind"], (about: string) => Shown> = {
  computer: (about) => page("Allow this computer?", ["Its key's fingerprint:", about], ["yes", "Allow"], ["no", "Refuse"]),
  root: () => page("Elevated access?", ["The debugging shell asks for it."], ["yes", "Allow"], ["no", "Refuse"]),
  backup: (about) =>
    page("Full backup?", [`A computer asks for a copy of ${about}.`], ["yes", "Back up my data"], ["no", "Do not back up"]),
};

function systemPage(phone: PracticePhone): Shown {
  const { card, question } = phone;
  if (phone.locked)
    return page(
      "Locked",
      [`${"●".repeat(phone.typed.length)}${"○".repeat((card.code?.length ?? 0) - phone.typed.length)}`],
      ...["1", "2", "3", "4", "5", "6", "7", "8", "9", "0"].map((digit) => [digit, digit] as const),
    );
  if (question) return QUESTIONS[question.kind](question.about);
  switch (phone.page) {
    case "home":
      return page("Thursday", [`battery ${phone.battery} %`], ["settings", "Settings"]);
    case "settings":
      return page(
        "Settings",
        [],
        ["about", "About phone"],
        ...(phone.developer ? [["developer", "Developer options"] as const] : []),
        BACK,
      );
    case "about": {
      const left = 7 - phone.taps;
      const hint = phone.developer ? "Developer options are there." : phone.taps > 2 ? `${left} more taps` : "";
      return page(
        "About phone",
        [card.card.model, `Android ${card.android}`, hint],
        ["build", `Build number ${card.build}`],
        ["settings", "Back"],
      );
    }
    case "developer":
      return page(
        "Developer options",
        [],
        ["hide", "Developer options: on"],
        ["debugging", `USB debugging: ${phone.debugging ? "on" : "off"}`],
        ["revoke", `Revoke allowed computers (${phone.allowed.length})`],
        ["settings", "Back"],
      );
    case "confirm debugging":
      return page("Allow USB debugging?", ["Only for a computer that you trust."], ["yes", "OK"], ["no", "Cancel"]);
  }
}
