import type { Server } from "node:net";

export interface Listening {
  readonly server: Server;
  readonly port: number;
}

/** Opens a server on a loopback port (0: any that is free), and on no other address. */
export function listening(server: Server, port: number): Promise<Listening> {
  return new Promise((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, "127.0.0.1", () => {
      const address = server.address();
      resolve({ server, port: typeof address === "object" && address ? address.port : port });
    });
  });
}
