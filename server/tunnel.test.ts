import { once } from "node:events";
import { createServer, type Server } from "node:http";
import { createServer as createTcp, type Socket } from "node:net";
import { afterAll, beforeAll, expect, test } from "vitest";
import { WebSocket } from "ws";
import { PracticeBench } from "../standins/practice-bench.ts";
import { noise } from "../test/pictures.ts";
import { practiceRoutes } from "./practice-phones.ts";
import { addTunnel, newToken } from "./tunnel.ts";

/** What a foreign page, or a program that guesses, would try on the tunnel. RFC 6455 §4, §10.2: Origin; nothing else guards a WebSocket. */
const token = newToken();
const server = createServer();
const sent = noise(3_000_000);
const reached: Socket[] = [];
const phone = createTcp((socket) => {
  reached.push(socket);
  socket.on("error", () => socket.destroy());
  socket.write(sent);
  socket.on("data", (piece) => socket.write(piece));
});
let port = 0;

const listen = async (one: Server | ReturnType<typeof createTcp>): Promise<number> => {
  one.listen(0, "127.0.0.1");
  await once(one, "listening");
  const address = one.address();
  return typeof address === "object" && address ? address.port : 0;
};
beforeAll(async () => {
  const phonePort = await listen(phone);
  addTunnel(server, token, (name) => (name === "practice/x/adb" ? phonePort : null));
  port = await listen(server);
});
afterAll(() => {
  server.close();
  phone.close();
  for (const socket of reached) socket.destroy();
});

function open(path: string, headers: Record<string, string> = {}): WebSocket {
  return new WebSocket(`ws://127.0.0.1:${port}${path}`, { headers: { origin: `http://127.0.0.1:${port}`, ...headers } });
}
const status = (socket: WebSocket): Promise<number | "open"> =>
  new Promise((resolve) => {
    socket.on("error", () => undefined);
    socket.on("unexpected-response", (_, response) => resolve(response.statusCode ?? 0));
    socket.on("open", () => resolve("open"));
  });
const way = `/tunnel/practice/x/adb?token=${token}`;

test.each([
  ["no token", "/tunnel/practice/x/adb", {}, 403],
  ["a wrong token", `/tunnel/practice/x/adb?token=${"0".repeat(64)}`, {}, 403],
  ["half a token", `/tunnel/practice/x/adb?token=${token.slice(0, 32)}`, {}, 403],
  ["a page from elsewhere", way, { origin: "https://wagon.example" }, 403],
  ["a page of another port of this machine", way, { origin: "http://127.0.0.1:1" }, 403],
  ["no origin", way, { origin: "" }, 403],
  ["a page without an origin", way, { origin: "null" }, 403],
  ["another name for this machine (DNS rebinding)", way, { host: "wagon.example" }, 403],
  ["a phone that is not there", `/tunnel/practice/y/adb?token=${token}`, {}, 404],
  ["a port of its own choice", `/tunnel/127.0.0.1:22?token=${token}`, {}, 404],
  ["a way out of the names", `/tunnel/practice/x/../../adb-server?token=${token}`, {}, 404],
  ["another address", `/api/practice?token=${token}`, {}, 404],
  ["an address that is none", "//", {}, 400],
  ["an address that is none, of a page from elsewhere", "//", { origin: "https://wagon.example" }, 403],
  ["a token of as many letters, two bytes each", `/tunnel/practice/x/adb?token=${"é".repeat(64)}`, {}, 403],
  ["a token of as many bytes", `/tunnel/practice/x/adb?token=${"é".repeat(32)}`, {}, 403],
] as const)("%s opens no tunnel", async (_, path, headers, expected) => {
  const before = reached.length;
  expect(await status(open(path, headers))).toBe(expected);
  expect(reached.length).toBe(before);
});

test("the own page's tunnel carries bytes both ways, whole and in order", async () => {
  const page = open(way);
  let whole = Buffer.alloc(0);
  page.on("message", (piece: Buffer) => {
    whole = Buffer.concat([whole, piece]);
  });
  const arrived = async (bytes: number) => {
    await expect.poll(() => whole.length).toBe(bytes);
    return whole;
  };
  const down = arrived(sent.length);
  expect(await status(page)).toBe("open");
  expect((await down).equals(Buffer.from(sent))).toBe(true);
  const back = arrived(sent.length + 1000);
  page.send(sent.subarray(0, 1000));
  expect((await back).subarray(sent.length).equals(Buffer.from(sent.subarray(0, 1000)))).toBe(true);
  const gone = once(reached[reached.length - 1], "close");
  page.close();
  await gone;
});

test("text and messages without end close the tunnel", async () => {
  for (const message of ["hello", Buffer.alloc(5 * 1024 * 1024)]) {
    const page = open(way);
    await status(page);
    const closed = once(page, "close");
    page.send(message);
    expect([1003, 1006, 1009]).toContain((await closed)[0]);
  }
});

test("a page that sends more than the phone takes is stopped, not kept in memory", async () => {
  const deaf = createTcp((socket) => void socket.pause().on("error", () => socket.destroy()));
  const server = createServer();
  const deafPort = await listen(deaf);
  addTunnel(server, token, () => deafPort);
  const port = await listen(server);
  const own = new WebSocket(`ws://127.0.0.1:${port}${way}`, { headers: { origin: `http://127.0.0.1:${port}` } });
  await once(own, "open");
  const piece = new Uint8Array(1 << 20);
  for (let sent = 0; sent < 64; sent++) own.send(piece);
  // What is stopped waits on the page's side: the kernel's buffers and one high-water mark is all that went on.
  await new Promise((done) => setTimeout(done, 500));
  expect(own.bufferedAmount).toBeGreaterThan(40 << 20);
  own.terminate();
  server.close();
  deaf.close();
});

test("the practice panel takes only what hands can do, and hands out only what lies there", async () => {
  const app = practiceRoutes(await PracticeBench.open());
  const own = { host: "127.0.0.1:4310", origin: "http://127.0.0.1:4310" };
  const ask = (path: string, body?: unknown, headers: Record<string, string> = own) =>
    app.request(path, body === undefined ? {} : { method: "POST", headers, body: typeof body === "string" ? body : JSON.stringify(body) });
  for (const body of ["{", {}, { do: "root" }, { do: "hold", keys: ["reset"] }, { do: "hold", keys: [] }, { do: "cable", in: "yes" }])
    expect((await ask("/siskin-healthy", body)).status, JSON.stringify(body)).toBe(400);
  expect((await ask("/nobody", { do: "charge" })).status).toBe(404);
  const after: { id: string; usb: string }[] = await (await ask("/siskin-healthy", { do: "cable", in: true })).json();
  expect(after.find(({ id }) => id === "siskin-healthy")?.usb).toBe("mute");
  // Hands of any other page, and of one that does not say which it is.
  const foreign: Record<string, string>[] = [
    {},
    { host: own.host },
    { origin: own.origin },
    { ...own, origin: "null" },
    { ...own, origin: "http://127.0.0.1:4311" },
    { ...own, origin: "https://wagon.example" },
    { host: "wagon.example", origin: "http://wagon.example" },
  ];
  for (const headers of foreign)
    expect((await ask("/siskin-healthy", { do: "cable", in: false }, headers)).status, JSON.stringify(headers)).toBe(403);
  expect((await ask("/siskin-healthy", { do: "tap", button: "x".repeat(5000) })).status).toBe(413);
  expect((await ask("/siskin-healthy", { do: "tap", button: "x".repeat(3000) })).status).toBe(400);
  const unmoved: { id: string; usb: string }[] = await (await ask("/")).json();
  expect(unmoved.find(({ id }) => id === "siskin-healthy")?.usb).toBe("mute");
  expect((await ask("/siskin-black/things/adbkey")).status).toBe(200);
  for (const path of ["/siskin-healthy/things/adbkey", "/siskin-black/things/..%2f..%2fpackage.json", "/nobody/things/adbkey"])
    expect((await ask(path)).status, path).toBe(404);
});
