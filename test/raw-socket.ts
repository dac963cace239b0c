import { connect } from "node:net";

/** Sends bytes to a loopback port as they are, and hears for `ms` milliseconds what comes back, as Latin-1. */
export const heard = (port: number, pieces: readonly Uint8Array[], ms = 400): Promise<string> =>
  new Promise((resolve) => {
    const socket = connect(port, "127.0.0.1");
    let got = "";
    socket.on("data", (piece) => {
      got += piece.toString("latin1");
    });
    socket.on("error", () => {});
    socket.on("close", () => resolve(got));
    for (const piece of pieces) socket.write(piece);
    setTimeout(() => socket.destroy(), ms);
  });
