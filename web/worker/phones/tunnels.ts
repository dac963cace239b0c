import { z } from "zod";
import type { BytePipe } from "../../../core/phones/byte-pipe.ts";

const TunnelFacts = z.object({ token: z.string(), adbServer: z.boolean() });
export type TunnelFacts = z.infer<typeof TunnelFacts>;

/** What the own server says of its tunnels, or null without a server. */
export async function tunnelFacts(): Promise<TunnelFacts | null> {
  try {
    return TunnelFacts.parse(await (await fetch("/api/tunnel")).json());
  } catch {
    return null;
  }
}

/** Opens a tunnel of the own server. @throws Error when nothing answers at its other end */
export function openTunnel(name: string, token: string): Promise<BytePipe> {
  const socket = new WebSocket(`${location.origin.replace(/^http/, "ws")}/tunnel/${name}?token=${token}`);
  socket.binaryType = "arraybuffer";
  const waiting: Uint8Array[] = [];
  let over = false;
  let heard = (piece: Uint8Array): void => void waiting.push(piece);
  let ended = (): void => {};
  socket.onmessage = ({ data }: MessageEvent<ArrayBuffer>) => heard(new Uint8Array(data));
  return new Promise((resolve, reject) => {
    socket.onclose = () => {
      over = true;
      ended();
      reject(new Error("nothing answers at the other end of the tunnel"));
    };
    socket.onopen = () =>
      resolve({
        listen(hear, end) {
          heard = hear;
          ended = () => end(null);
          for (const piece of waiting.splice(0)) hear(piece);
          if (over) end(null);
        },
        send: (bytes) => socket.send(bytes as Uint8Array<ArrayBuffer>),
        close: () => socket.close(),
      });
  });
}
