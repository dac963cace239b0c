import type { Socket } from "node:net";
import type { BytePipe } from "../core/phones/byte-pipe.ts";
import type { PracticePhone, Usb } from "./phone/practice-phone.ts";

/**
 * Lets a connection live only as long as the phone's cable shows this protocol: a pulled cable or another mode ends it by
 * `letGo`. @returns whether the cable shows it now; a connection that came at a wrong time is cut at once
 */
export function holdToCable(socket: Socket, phone: PracticePhone, usb: Usb, letGo: () => void): boolean {
  const watch = () => {
    if (phone.usb !== usb) letGo();
  };
  phone.changes.on("change", watch);
  socket.on("close", () => phone.changes.off("change", watch));
  socket.on("error", () => socket.destroy());
  if (phone.usb !== usb) socket.destroy();
  return phone.usb === usb;
}

/** A TCP connection as a pipe. */
export const socketPipe = (socket: Socket): BytePipe => ({
  listen(heard, ended) {
    socket.on("data", heard);
    socket.on("error", () => socket.destroy());
    socket.on("close", () => ended(null));
  },
  send: (bytes) => void socket.write(bytes),
  close: () => void socket.destroy(),
});
