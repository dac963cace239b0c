import { z } from "zod";
import { KEYS } from "../core/phones/model-cards.ts";
import { serveAdb } from "./adb/adbd.ts";
import { serveDownloadMode } from "./download/download-mode.ts";
import { serveFastboot } from "./fastboot/fastboot.ts";
import { ownersComputer, PRACTICE_PHONES, practicePhone } from "./kit.ts";
import type { PracticePhone } from "./phone/practice-phone.ts";
import { screenOf } from "./phone/screen.ts";
import { type Thing, thingsOf } from "./things.ts";

/** What a hand can do to a practice phone. */
export const Hand = z.discriminatedUnion("do", [
  z.object({ do: z.literal("tap"), button: z.string().max(40) }),
  z.object({ do: z.literal("hold"), keys: z.array(z.enum(KEYS)).min(1).max(4) }),
  z.object({ do: z.literal("cable"), in: z.boolean() }),
  z.object({ do: z.literal("mouse"), in: z.boolean() }),
  z.object({ do: z.literal("charge") }),
  z.object({ do: z.literal("reset") }),
]);
export type Hand = z.infer<typeof Hand>;

const PROTOCOLS = ["adb", "fastboot", "download"] as const;
export type Protocol = (typeof PROTOCOLS)[number];

interface Place {
  readonly phone: PracticePhone;
  readonly things: readonly Thing[];
  readonly ports: Readonly<Record<Protocol, number>>;
}

/** All practice phones with their daemons on loopback ports: what the application's panel shows and its tunnel reaches. */
export class PracticeBench {
  readonly #places = new Map<string, Place>();

  static async open(): Promise<PracticeBench> {
    const bench = new PracticeBench();
    const owner = ownersComputer();
    for (const card of PRACTICE_PHONES) {
      const phone = await practicePhone(card.id, false, owner);
      const [adb, fastboot, download] = await Promise.all([serveAdb(phone), serveFastboot(phone), serveDownloadMode(phone)]);
      for (const { server } of [adb, fastboot, download]) server.unref();
      const ports = { adb: adb.port, fastboot: fastboot.port, download: download.port };
      bench.#places.set(card.id, { phone, things: thingsOf(card, owner), ports });
    }
    return bench;
  }

  /** Everything that can be seen of the phones without a computer: what lies on the bench. */
  list() {
    return [...this.#places].map(([id, { phone, things }]) => ({
      id,
      state: phone.card.state,
      story: phone.card.story,
      card: phone.card.card,
      serial: phone.card.serial,
      cable: phone.cable,
      mouse: phone.mouse,
      battery: phone.battery,
      usb: phone.usb,
      screen: screenOf(phone),
      things: things.map(({ name, about }) => ({ name, about })),
    }));
  }

  /** @returns false where there is no such phone */
  act(id: string, hand: Hand): boolean {
    const phone = this.#places.get(id)?.phone;
    if (!phone) return false;
    if (hand.do === "tap") phone.tap(hand.button);
    else if (hand.do === "hold") phone.hold(hand.keys);
    else if (hand.do === "cable") phone.plug(hand.in);
    else if (hand.do === "mouse") phone.plugMouse(hand.in);
    else if (hand.do === "charge") phone.charge();
    else phone.reset();
    return true;
  }

  thing(id: string, name: string): Thing | null {
    return this.#places.get(id)?.things.find((one) => one.name === name) ?? null;
  }

  /** The loopback port where a phone's daemon listens, or null. */
  port(id: string, protocol: string): number | null {
    const known = PROTOCOLS.find((one) => one === protocol);
    return (known && this.#places.get(id)?.ports[known]) ?? null;
  }
}
