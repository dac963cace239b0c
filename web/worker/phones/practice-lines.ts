import { z } from "zod";
import { packetsOver } from "../../../core/phones/adb/connection.ts";
import type { Line } from "../../../core/phones/attached-phone.ts";
import { openTunnel } from "./tunnels.ts";

/** What a computer sees of the practice kit. */
const Practice = z.array(
  z.object({
    id: z.string(),
    serial: z.string(),
    card: z.object({ model: z.string() }),
    usb: z.enum(["none", "mute", "adb", "fastboot", "download"]),
  }),
);
export type PracticePhoneSeen = z.infer<typeof Practice>[number];

/** Practice phones of the own server; none where it has no kit, null where it does not answer. */
export async function practicePhones(): Promise<PracticePhoneSeen[] | null> {
  try {
    return Practice.parse(await (await fetch("/api/practice")).json());
  } catch {
    return null;
  }
}

/** How a practice phone can be spoken to, by what its cable shows. */
export function lineOf({ id, usb }: PracticePhoneSeen, token: string): Line {
  if (usb === "none" || usb === "mute") return { kind: usb };
  const open = () => openTunnel(`practice/${id}/${usb}`, token);
  if (usb !== "adb") return { kind: usb, open };
  const openDaemon = async () => {
    const pipe = await open();
    return { connection: packetsOver(pipe), hangUp: () => pipe.close() };
  };
  return { kind: "daemon", open: openDaemon };
}
