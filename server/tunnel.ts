import { randomBytes, timingSafeEqual } from "node:crypto";
import type { IncomingMessage, Server } from "node:http";
import { connect } from "node:net";
import type { Duplex } from "node:stream";
import { type WebSocket, WebSocketServer } from "ws";
import { isOwnPage } from "./guards.ts";

/** Bytes from the phone that may wait for the page before reading from the phone stops. */
const HIGH_WATER = 8 * 1024 * 1024;
/** Longest message of a page: pieces of images that are sent to a phone. */
const MAX_MESSAGE = 4 * 1024 * 1024;

/** Where a tunnel of this name leads: a loopback port, or null. */
export type Destination = (name: string) => number | null;

/** A new secret, for one run of the server: only its own page learns it. */
export const newToken = (): string => randomBytes(32).toString("hex");

/** Compared as bytes, and in the same time wherever they differ. */
function sameToken(given: string, token: string): boolean {
  const [asked, right] = [Buffer.from(given), Buffer.from(token)];
  return asked.length === right.length && timingSafeEqual(asked, right);
}

/**
 * Tunnels of bytes to loopback ports for this server's own page: a WebSocket (RFC 6455) at /tunnel/NAME?token=…, binary
 * messages as they come. Host and Origin must be this server's own, the token must be right, and the name must be known.
 */
export function addTunnel(server: Server, token: string, destination: Destination): void {
  const sockets = new WebSocketServer({ noServer: true, maxPayload: MAX_MESSAGE, perMessageDeflate: false });
  server.on("upgrade", (request: IncomingMessage, socket: Duplex, head: Buffer) => {
    socket.on("error", () => socket.destroy());
    const asked = askedFor(request, token, destination);
    if (typeof asked === "number") sockets.handleUpgrade(request, socket, head, (page) => join(page, asked));
    else socket.end(`HTTP/1.1 ${asked}\r\nConnection: close\r\nContent-Length: 0\r\n\r\n`);
  });
}

/** The port that an upgrade leads to, or the status line that refuses it. Guards first: of a foreign page nothing else is even read. */
function askedFor({ headers, url = "" }: IncomingMessage, token: string, destination: Destination): number | string {
  if (!isOwnPage(headers.host, headers.origin)) return "403 Forbidden";
  // The request line is anybody's words ("//" is no address at all): what does not parse leads nowhere.
  if (!URL.canParse(url, `http://${headers.host}`)) return "400 Bad Request";
  const { pathname, searchParams } = new URL(url, `http://${headers.host}`);
  if (!sameToken(searchParams.get("token") ?? "", token)) return "403 Forbidden";
  const name = /^\/tunnel\/(.+)$/.exec(pathname)?.[1];
  return (name && destination(name)) || "404 Not Found";
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
  phone.on("close", () => {
    page.resume();
    page.close();
  });
  phone.on("error", () => page.close(1011, "nothing answers there"));
  page.on("message", (message: Buffer, binary) => {
    if (!binary) page.close(1003, "only bytes");
    // A phone that takes nothing stops its page, before what waits for it fills the memory.
    else if (!phone.write(message)) page.pause();
  });
  phone.on("drain", () => page.resume());
  page.on("close", () => phone.destroy());
  page.on("error", () => page.terminate());
}
