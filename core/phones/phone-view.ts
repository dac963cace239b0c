import type { Partition } from "./adb/partitions.ts";
import type { PhoneReport } from "./adb/phone-report.ts";
import type { Identity } from "./download-mode.ts";
import type { BootloaderReport } from "./fastboot.ts";
import type { Seen } from "./seen.ts";

/** A phone on the bench, as it stands now. */
export interface PhoneView extends Seen {
  /** Stays the same while it is attached. */
  readonly id: string;
  /** What to call it before it told its model. */
  readonly name: string;
  readonly way: "practice" | "USB" | "adb server";
  /** When it came into this state, in milliseconds since 1970. */
  readonly since: number;
  /** What went wrong last, in plain words. */
  readonly problem: string | null;
  readonly report: PhoneReport | null;
  readonly bootloader: Pick<BootloaderReport, "product" | "unlocked"> | null;
  readonly download: Identity | null;
  /** Raw partitions, where they can be read. */
  readonly partitions: readonly Partition[];
}
