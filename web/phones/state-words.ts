import type { PhoneView } from "../../core/phones/phone-view.ts";
import { PATIENCE, type PhoneState, USUAL_TROUBLE } from "../../core/phones/states.ts";
import { bytes } from "../shared/words.ts";

const WORDS: Readonly<Record<PhoneState, string>> = {
  "nothing attached": "Nothing attached",
  "attached, not answering": "Attached, but not answering",
  "waiting for the person to allow": "Waiting for its owner to allow this computer",
  offline: "Offline",
  ready: "Ready",
  "in recovery": "In recovery",
  "in bootloader": "In bootloader",
  "in download mode": "In download mode",
};

/** How a phone stands, in words. */
export const stateWords = ({ state }: PhoneView): string => WORDS[state];

/** What can be done with it now, or what to look at. */
export function nextWords(phone: PhoneView): string {
  switch (phone.state) {
    case "ready":
      return phone.elevated ? "Shared storage and raw partitions can be read." : "Its shared storage can be read.";
    case "in recovery":
      return phone.partitions.length > 0 ? "Its raw partitions can be read." : "This recovery gives no raw storage.";
    case "in bootloader":
      return phone.bootloader?.unlocked ? "Unlocked: a recovery can be started for once." : "Locked: nothing can be started from here.";
    case "in download mode":
      return phone.download ? `${phone.download.model}, build code ${phone.download.build}.` : "";
    case "waiting for the person to allow":
      return "The question is on the phone's screen. Hidden by the lock? Unlock it first.";
    default:
      return phone.problem ?? USUAL_TROUBLE[phone.state][0] ?? "";
  }
}

/** What a phone told of itself, in one line. */
export function reportWords({ report }: PhoneView): string {
  if (!report) return "";
  return [
    report.android && `Android ${report.android}`,
    report.patched && `patched ${report.patched}`,
    report.encryption && (report.encryption === "none" ? "not encrypted" : `${report.encryption} encryption`),
    report.root === "can ask" ? "rooted" : null,
    report.storage && `${bytes(report.storage.free)} of ${bytes(report.storage.size)} free`,
    report.card && `card of ${bytes(report.card.size)} inside`,
    report.battery !== null && `battery ${report.battery} %`,
  ]
    .filter(Boolean)
    .join(" · ");
}

/** Has it stood so long that one should look what is wrong? */
export const impatient = ({ since }: PhoneView, now: number): boolean => now - since > PATIENCE * 1000;
