import type { Adb } from "@yume-chan/adb";
import type { Facts } from "../../triage/facts.ts";
import { runOnPhone } from "./shell.ts";

/** What a phone tells of itself. Sizes in bytes; null: it did not tell. */
export interface PhoneReport {
  readonly maker: string | null;
  readonly model: string | null;
  readonly serial: string | null;
  /** As the phone writes it: "8.1.0". */
  readonly android: string | null;
  /** Day of the last security patch, YYYY-MM-DD. */
  readonly patched: string | null;
  readonly buildCode: string | null;
  /** Charge in per cent. */
  readonly battery: number | null;
  readonly charging: boolean | null;
  readonly encryption: Facts["encryption"];
  /** Elevated access: the shell has it already, a program gives it, or there is none. */
  readonly root: "is root" | "can ask" | "none";
  readonly storage: { readonly size: number; readonly free: number } | null;
  /** The memory card inside, where one is mounted. */
  readonly card: { readonly path: string; readonly size: number; readonly free: number } | null;
  readonly filesystem: string | null;
  /** Are freed blocks handed back to the flash at once? Only the mount option is seen, not the nightly run. */
  readonly discards: boolean | null;
  /** Is this a recovery system rather than the phone's own? */
  readonly recovery: boolean;
  /** Does the bootloader start only what its maker signed? */
  readonly bootloaderLocked: boolean | null;
  /** Does the screen lock hold at the moment? */
  readonly screenLocked: boolean | null;
}

const PROPERTY = /^\[([^\]]+)\]: \[([\s\S]*?)\]$/gm;
const properties = (said: string) => new Map(Array.from(said.replaceAll("\r", "").matchAll(PROPERTY), ([, key, value]) => [key, value]));

/** Lines of `df -k`: device, 1K-blocks, used, available, use, mount point. */
function freeSpace(said: string): { path: string; size: number; free: number }[] {
  return said.split("\n").flatMap((line) => {
    const parts = /^\S+\s+(\d+)\s+\d+\s+(\d+)\s+\d+%\s+(\/\S*)\s*$/.exec(line);
    return parts ? [{ size: Number(parts[1]) * 1024, free: Number(parts[2]) * 1024, path: parts[3] }] : [];
  });
}

/** Lines of `mount`: "device on place type kind (options)", on old phones "device place kind options 0 0". */
function mountOf(said: string, place: string): { type: string; options: string[] } | null {
  for (const line of said.split("\n")) {
    const [, at, type, options] =
      /^\S+ on (\S+) type (\S+) \(([^)]*)\)/.exec(line) ?? /^\S+ (\/\S*) (\S+) (\S+)(?: \d+ \d+)?\s*$/.exec(line) ?? [];
    if (at === place) return { type, options: options.split(",") };
  }
  return null;
}

const CARD_PLACE = /^\/storage\/[0-9A-F]{4}-[0-9A-F]{4}$/;

/** Charge and whether it is charging: what changes while a phone lies on the bench. */
export async function batteryOf(adb: Adb): Promise<Pick<PhoneReport, "battery" | "charging">> {
  const { out } = await runOnPhone(adb, "dumpsys battery");
  const level = /^\s*level: (\d{1,3})\s*$/m.exec(out);
  const powered = [...out.matchAll(/^\s*\w+ powered: (true|false)/gm)];
  return {
    battery: level ? Number(level[1]) : null,
    charging: powered.length > 0 ? powered.some(([, is]) => is === "true") : null,
  };
}

/** Reads off a phone what decides over what can come back. Nothing is asked of its owner, nothing is changed. */
export async function reportOf(adb: Adb): Promise<PhoneReport> {
  const ask = async (command: string) => (await runOnPhone(adb, command)).out;
  const told = properties(await ask("getprop"));
  const battery = await batteryOf(adb);
  const df = freeSpace(await ask("df -k"));
  const mount = await ask("mount");
  const id = await ask("id");
  const su = await ask("which su");
  const first = (...names: string[]) => names.map((name) => told.get(name)).find(Boolean) ?? null;
  const data = mountOf(mount, "/data");
  const place = (path: string) => df.find((one) => one.path === path) ?? null;
  return {
    maker: first("ro.product.manufacturer"),
    model: first("ro.product.model"),
    serial: first("ro.serialno"),
    android: first("ro.build.version.release"),
    patched: first("ro.build.version.security_patch"),
    buildCode: first("ro.build.display.id", "ro.build.id"),
    ...battery,
    encryption: encryptionOf(told.get("ro.crypto.state"), told.get("ro.crypto.type")),
    root: /\buid=0\b/.test(id) ? "is root" : /\/su\s*$/m.test(su) ? "can ask" : "none",
    storage: sizesOf(place("/data") ?? place("/storage/emulated") ?? place("/sdcard")),
    card: df.find(({ path }) => CARD_PLACE.test(path)) ?? null,
    filesystem: data?.type ?? null,
    discards: data ? data.options.includes("discard") : null,
    recovery: told.get("ro.bootmode") === "recovery" || String(adb.banner.state) === "recovery",
    bootloaderLocked: bootloaderLockOf(told),
    screenLocked: screenLockOf(await ask("dumpsys trust")),
  };
}

const sizesOf = (place: { size: number; free: number } | null) => place && { size: place.size, free: place.free };

/** ro.boot.flash.locked (Android Open Source Project, "Device state"; the property's values are from memory): 1 locked, 0 not. */
function bootloaderLockOf(told: ReadonlyMap<string, string>): boolean | null {
  const locked = told.get("ro.boot.flash.locked");
  return locked === "1" ? true : locked === "0" ? false : null;
}

/** What the system's trust service prints of the user in front (Android Open Source Project, TrustManagerService; from memory): `(current): … deviceLocked=0`. */
function screenLockOf(said: string): boolean | null {
  const [, locked] = /\(current\):[^\n]*\bdeviceLocked=([01])\b/.exec(said) ?? [];
  return locked === undefined ? null : locked === "1";
}

/** ro.crypto.state and ro.crypto.type (AOSP, system/vold). */
function encryptionOf(state: string | undefined, type: string | undefined): Facts["encryption"] {
  if (state === "unencrypted") return "none";
  if (state !== "encrypted") return null;
  return type === "file" ? "file based" : type === "block" ? "full disk" : null;
}

/** What of a report the forecast counts with. */
export const factsFrom = (report: PhoneReport): Partial<Facts> => {
  const major = Number.parseInt(report.android ?? "", 10);
  return {
    ...(report.recovery ? { customRecovery: true } : { debugging: true, letsIn: true, root: report.root !== "none" }),
    ...(report.screenLocked !== null && { locked: report.screenLocked }),
    ...(report.bootloaderLocked !== null && { bootloaderUnlocked: !report.bootloaderLocked }),
    ...(report.card && { cardInside: true }),
    ...(Number.isInteger(major) && { android: major }),
    ...(report.encryption && { encryption: report.encryption }),
    ...(report.battery !== null && { battery: report.battery }),
    ...(report.storage && { free: report.storage.free }),
    ...(report.discards && { trims: true }),
  };
};
