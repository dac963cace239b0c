import { randomBytes, timingSafeEqual } from "node:crypto";
import type { IncomingMessage, Server } from "node:http";
import { connect } from "node:net";
import type { Duplex } from "node:stream";
import { type WebSocket, WebSocketServer } from "ws";
import { isLocalName } from "./guards.ts";

/** Bytes from the phone that may wait for the page before reading from the phone stops. */
const HIGH_WATER = 8 * 1024 * 1024;
/** Longest message of a page: pieces of images that are sent to a phone. */
const MAX_MESSAGE = 4 * 1024 * 1024;

/** Where a tunnel of this name leads: a loopback port, or null. */
export type Destination = (name: string) => number | null;

/** A new secret, for one run of the server: only its own page learns it. */
export const newToken = (): string => randomBytes(32).toString("hex");

const sameToken = (given: string, token: string): boolean =>
  given.length === token.length && timingSafeEqual(Buffer.from(given), Buffer.from(token));

/**
 * Tunnels of bytes to loopback ports for this server's own page: a WebSocket (RFC 6455) at /tunnel/NAME?token=…, binary
 * messages as they come. Host and Origin must be this server's own, the token must be right, and the name must be known.
 */
export function addTunnel(server: Server, token: string, destination: Destination): void {
  const sockets = new WebSocketServer({ noServer: true, maxPayload: MAX_MESSAGE, perMessageDeflate: false });
  server.on("upgrade", (request: IncomingMessage, socket: Duplex, head: Buffer) => {
    socket.on("error", () => socket.destroy());
    const refusal = refusalOf(request, token);
    const name = new URL(request.url ?? "/", "http://x").pathname.replace(/^\/tunnel\//, "");
    const port = refusal ? null : destination(name);
    if (refusal || port === null) {
      socket.end(`HTTP/1.1 ${refusal ?? "404 Not Found"}\r\nConnection: close\r\nContent-Length: 0\r\n\r\n`);
      return;
    }
    sockets.handleUpgrade(request, socket, head, (page) => join(page, port));
  });
}

/** Why an upgrade is refused, as a status line, or null. */
function refusalOf(request: IncomingMessage, token: string): string | null {
  const { host, origin } = request.headers;
  const url = new URL(request.url ?? "/", "http://x");
  if (!isLocalName(host ?? "") || origin !== `http://${host}`) return "403 Forbidden";
  if (!sameToken(url.searchParams.get("token") ?? "", token)) return "403 Forbidden";
  return url.pathname.startsWith("/tunnel/") ? null : "404 Not Found";
}

/** Carries bytes both ways until one side ends. */
function join(page: WebSocket, port: number): void {
  const phone = connect(port, "127.0.0.1");
  phone.setNoDelay();
  phone.on("data", (piece) => {
    page.send(piece, () => {
      if (phone.isPaused() && page.bufferedAmount < HIGH_WATER) phone.resume();
    });
    if (page.bufferedAmount > HIGH_WATER) phone.pause();
  });
  phone.on("close", () => page.close());
  phone.on("error", () => page.close(1011, "nothing answers there"));
  page.on("message", (message: Buffer, binary) => {
    if (!binary) page.close(1003, "only bytes");
    else phone.write(message);
  });
  page.on("close", () => phone.destroy());
  page.on("error", () => page.terminate());
}
