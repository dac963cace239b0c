import { AttachedPhone, type Line } from "../../../core/phones/attached-phone.ts";
import type { PhoneView } from "../../../core/phones/phone-view.ts";
import { nextWait } from "../../shared/waits.ts";
import { AdbServer } from "./adb-server.ts";
import { allKeys } from "./key-shelf.ts";
import { lineOf, practicePhones } from "./practice-lines.ts";
import { type TunnelFacts, tunnelFacts } from "./tunnels.ts";
import { usbPhones } from "./usb.ts";

const SPEAKER = { keys: allKeys, now: () => Date.now() };

/** Milliseconds between looks at what is plugged in. */
const LOOK_EVERY = 600;
/** The own server's tunnels and the machine's adb server are asked less often: each question opens a connection. */
const ASK_SERVER_EVERY = 3000;

/** Keeps looking at what is plugged in: practice phones, USB sockets, the machine's adb server. */
export class BenchWatch {
  readonly phones = new Map<string, AttachedPhone>();
  readonly #changed: () => void;
  #askedServer = 0;
  /** Questions to the own server, in a row, that nobody answered. */
  #unanswered = 0;
  /** What the own server said last of its tunnels. */
  #tunnels: TunnelFacts | null = null;

  constructor(changed: () => void) {
    this.#changed = changed;
    void this.#lookOn();
  }

  /** What lies on the bench. Practice phones without a cable lie in their kit. */
  views(): PhoneView[] {
    return [...this.phones.values()].map(({ view }) => view).filter(({ state, way }) => state !== "nothing attached" || way !== "practice");
  }

  async #lookOn(): Promise<never> {
    for (;;) {
      await this.#look().catch(() => undefined);
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY));
    }
  }

  async #look(): Promise<void> {
    const askServer = Date.now() - this.#askedServer >= nextWait(ASK_SERVER_EVERY, this.#unanswered);
    if (askServer) {
      this.#askedServer = Date.now();
      this.#tunnels = await tunnelFacts();
      this.#unanswered = this.#tunnels ? 0 : this.#unanswered + 1;
    }
    const kit = this.#tunnels ? await practicePhones() : [];
    // A server that went away is not asked on at the pace of one that is there.
    if (kit === null) this.#tunnels = null;
    const tunnels = this.#tunnels;
    for (const seen of kit ?? [])
      this.#at(`practice/${seen.id}`, seen.card.model, "practice", seen.serial).cable(lineOf(seen, tunnels?.token ?? ""));
    const usb = await usbPhones();
    for (const { serial, name, open } of usb) this.#at(`usb/${serial}`, name, "USB", serial).cable({ kind: "daemon", open });
    this.#unplugMissing(
      "usb/",
      usb.map(({ serial }) => `usb/${serial}`),
    );
    if (!askServer) return;
    const served = tunnels?.adbServer ? await new AdbServer(tunnels.token).phones() : [];
    for (const { serial, state, model, open } of served) {
      const line: Line = state === "device" ? { kind: "served", open } : { kind: state === "unauthorized" ? "asking" : "offline" };
      this.#at(`adb/${serial}`, model ?? serial, "adb server", serial).cable(line);
    }
    this.#unplugMissing(
      "adb/",
      served.map(({ serial }) => `adb/${serial}`),
    );
  }

  #at(id: string, name: string, way: PhoneView["way"], serial: string): AttachedPhone {
    const known = this.phones.get(id);
    if (known) return known;
    const phone = new AttachedPhone(id, name, way, serial, SPEAKER, () => this.#changed());
    this.phones.set(id, phone);
    return phone;
  }

  #unplugMissing(begins: string, there: readonly string[]): void {
    for (const [id, phone] of this.phones)
      if (id.startsWith(begins) && !there.includes(id)) {
        phone.cable({ kind: "none" });
        this.phones.delete(id);
        this.#changed();
      }
  }

  /** The phone with this serial: one that lets itself be spoken to before one that does not. */
  bySerial(serial: string): AttachedPhone | null {
    return this.allBySerial(serial)[0] ?? null;
  }

  /** All phones with this serial: it may be one over two cables, or two that share it. Those that can be spoken to come first. */
  allBySerial(serial: string): AttachedPhone[] {
    const all = [...this.phones.values()].filter(({ view }) => view.serial === serial);
    return all.sort((a, b) => Number(b.adb !== null) - Number(a.adb !== null));
  }
}
