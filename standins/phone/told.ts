import type { PracticePhone } from "./practice-phone.ts";

/** System properties of a practice phone, by the names that phones really use. */
export function properties({ card, mode }: PracticePhone): Map<string, string> {
  return new Map([
    ["ro.product.manufacturer", card.card.maker],
    ["ro.product.model", card.card.model],
    ["ro.product.name", card.device],
    ["ro.product.device", card.device],
    ["ro.serialno", card.serial],
    ["ro.build.version.release", card.android],
    ["ro.build.version.security_patch", card.patched],
    ["ro.build.display.id", card.build],
    ["ro.bootmode", mode === "recovery" ? "recovery" : "unknown"],
    ["ro.boot.flash.locked", card.bootloaderUnlocked ? "0" : "1"],
    ["ro.crypto.state", card.encryption === "none" ? "unencrypted" : "encrypted"],
    ...(card.encryption === "none" ? [] : [["ro.crypto.type", card.encryption] as const]),
  ]);
}

/** What its bootloader tells of itself (AOSP, fastboot README, "Client variables"). */
export function bootloaderVariables({ card, battery }: PracticePhone): Map<string, string> {
  return new Map([
    ["version", "0.4"],
    ["product", card.device],
    ["serialno", card.serial],
    ["secure", "yes"],
    ["unlocked", card.bootloaderUnlocked ? "yes" : "no"],
    ["is-userspace", "no"],
    ["battery-soc-ok", battery >= 20 ? "yes" : "no"],
    ["max-download-size", "0x04000000"],
  ]);
}
