import { UnusableError } from "../core/bytes/source.ts";
import { serveAdb } from "../standins/adb/adbd.ts";
import { serveFastboot } from "../standins/fastboot/fastboot.ts";
import { bringIn } from "../standins/hands.ts";
import { PRACTICE_PHONES, practicePhone } from "../standins/kit.ts";
import type { Usb } from "../standins/phone/practice-phone.ts";
import { type Command, readWords } from "./command.ts";

/** Starts practice phones on loopback ports, a line for each, until Ctrl-C. */
export const practiceCommand: Command = {
  name: "practice",
  usage: "practice [NAME …] [--allow] [--list]",
  async run(args) {
    const { positionals, values } = readWords(args, { allow: { type: "boolean" }, list: { type: "boolean" } });
    const unknown = positionals.find((name) => !PRACTICE_PHONES.some(({ id }) => id === name));
    if (unknown)
      throw new UnusableError(`There is no practice phone ${unknown}: there are ${PRACTICE_PHONES.map(({ id }) => id).join(", ")}.`);
    const chosen = PRACTICE_PHONES.filter(({ id }) => positionals.length === 0 || positionals.includes(id));
    const tell = (name: string, state: string, adb: string | null, fastboot: string | null) =>
      process.stdout.write(`${JSON.stringify({ type: "phone", name, state, adb, fastboot })}\n`);
    if (values.list) {
      for (const { id, state } of chosen) tell(id, state, null, null);
      return 0;
    }
    // Heard from before the first line on: whoever reads a line may end this at once.
    const ended = new Promise<void>((end) => {
      for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => end());
    });
    const servers = [];
    for (const { id, state } of chosen) {
      const phone = await practicePhone(id, values.allow ?? false);
      bringIn(phone);
      const [adb, fastboot] = await Promise.all([serveAdb(phone), serveFastboot(phone)]);
      servers.push(adb.server, fastboot.server);
      const now = (usb: Usb, port: number) => (phone.usb === usb ? `127.0.0.1:${port}` : null);
      tell(id, state, now("adb", adb.port), now("fastboot", fastboot.port));
    }
    await ended;
    for (const server of servers) server.close();
    // Computers that are still connected do not hold the end up.
    process.exit(0);
  },
};
