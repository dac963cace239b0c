import { connect, type Server } from "node:net";
import type { BytePipe } from "../core/phones/byte-pipe.ts";
import { serveAdb } from "../standins/adb/adbd.ts";
import { socketPipe } from "../standins/cable.ts";
import { bringIn } from "../standins/hands.ts";
import { type OwnersComputer, practicePhone } from "../standins/kit.ts";
import type { Listening } from "../standins/listening.ts";
import type { PracticePhone } from "../standins/phone/practice-phone.ts";

/** A TCP connection as a pipe. */
export async function tcpPipe(port: number): Promise<BytePipe> {
  const socket = connect(port, "127.0.0.1");
  socket.setNoDelay();
  await new Promise<void>((resolve, reject) => {
    socket.once("connect", resolve);
    socket.once("error", reject);
  });
  return socketPipe(socket);
}

/** A practice phone on its cable, after hands did what they can: see bringIn. */
export async function phoneOnCable(id: string, willing: boolean, owner: OwnersComputer | null = null): Promise<PracticePhone> {
  const phone = await practicePhone(id, willing, owner);
  bringIn(phone);
  return phone;
}

/** Serves phones for a test, and ends them with it. */
export class Served {
  readonly #servers: Server[] = [];

  async on(serving: Promise<Listening>): Promise<number> {
    const { server, port } = await serving;
    this.#servers.push(server);
    return port;
  }

  adb = (phone: PracticePhone): Promise<number> => this.on(serveAdb(phone));

  close(): void {
    for (const server of this.#servers) server.close();
  }
}
