import type { PhoneKey } from "../core/phones/model-cards.ts";
import type { PracticePhone } from "./phone/practice-phone.ts";

/** What a person taps from the home page on to switch USB debugging on. */
const DEBUGGING_TAPS = ["settings", "about", ...Array.from({ length: 7 }, () => "build"), "settings", "developer", "debugging", "yes"];

/** Switches USB debugging on by hand, where the screen allows it. */
export function switchDebuggingOn(phone: PracticePhone): void {
  if (!phone.debugging) for (const button of DEBUGGING_TAPS) phone.tap(button);
}

/** Switches a phone off and holds the keys of a mode. */
export function enterMode(phone: PracticePhone, mode: "recovery" | "bootloader" | "download"): void {
  const keys = phone.card.card.modes[mode];
  if (!keys) return;
  if (phone.mode !== "off") phone.hold(["power"]);
  phone.hold(keys.hold);
  if (keys.accept) phone.hold([keys.accept] satisfies PhoneKey[]);
}

/** Does what hands can do for a phone before a computer is asked: for phones that are started without the panel. */
export function bringIn(phone: PracticePhone): void {
  const { card } = phone;
  phone.plug(true);
  if (card.bootloaderUnlocked && card.brokenSystem) enterMode(phone, "bootloader");
  else if (card.brokenSystem) enterMode(phone, "download");
  else if (card.customRecovery) enterMode(phone, "recovery");
  else {
    if (card.picture && !card.touch) phone.plugMouse(true);
    if (card.code && card.codeKnown) for (const digit of card.code) phone.tap(digit);
    switchDebuggingOn(phone);
  }
}
