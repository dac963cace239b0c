import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, truncateSync, writeFileSync } from "node:fs";
import { createServer, type Server } from "node:http";
import { type AddressInfo, connect } from "node:net";
import { tmpdir } from "node:os";
import { join, relative } from "node:path";
import { gzipSync } from "node:zlib";
import { serve } from "@hono/node-server";
import { afterAll, describe, expect, test } from "vitest";
import { flakyReader } from "../standins/flaky-reader.ts";
import { noise } from "../test/pictures.ts";
import { createApp } from "./app.ts";
import { practiceMedia } from "./practice.ts";
import { addTunnel } from "./tunnel.ts";

const folder = mkdtempSync(join(tmpdir(), "jubar-server-"));
afterAll(() => rmSync(folder, { recursive: true }));
const dist = join(folder, "dist");
mkdirSync(join(dist, "assets"), { recursive: true });
writeFileSync(join(dist, "index.html"), "<!doctype html><title>Jubar</title>");
writeFileSync(join(dist, "assets", "main-1.js"), "export {}");
writeFileSync(join(folder, "secret.txt"), "not for anybody");
const bytes = noise(100_000);
writeFileSync(join(folder, "card.img"), bytes);
const medium = {
  id: "card",
  name: "card.img",
  path: join(folder, "card.img"),
  size: bytes.length,
  note: "a card",
  ticket: null,
  reader: null,
};
/** Longer than what is given at once; it takes no room. */
const long = { ...medium, id: "long", name: "long.img", path: join(folder, "long.img"), size: 200 * 1024 * 1024 };
writeFileSync(long.path, "");
truncateSync(long.path, long.size);
const app = createApp({
  dist: relative(process.cwd(), dist),
  media: [medium, long],
  practice: null,
  token: "secret",
  adbServer: async () => false,
});
const ask = (path: string, headers: Record<string, string> = {}, method = "GET") =>
  app.request(`http://127.0.0.1:4310${path}`, { method, headers: { host: "127.0.0.1:4310", ...headers } });

test("media are told without the place where they lie", async () => {
  const answer = await ask("/api/media");
  expect(await answer.json()).toEqual([medium, long].map(({ path: _, reader: __, ...told }) => ({ ...told, url: `/media/${told.id}` })));
});

// RFC 9110 §14.1.2: first and last byte, both inclusive; a last one beyond the end means the end.
test.each([
  ["bytes=0-0", 0, 1],
  ["bytes=500-1499", 500, 1500],
  ["bytes=99990-200000", 99_990, 100_000],
])("range %s gives exactly those bytes", async (range, from, to) => {
  const answer = await ask("/media/card", { range });
  expect(answer.status).toBe(206);
  expect(answer.headers.get("content-range")).toBe(`bytes ${from}-${to - 1}/100000`);
  expect(Buffer.from(await answer.arrayBuffer()).equals(bytes.subarray(from, to))).toBe(true);
});

test.each([undefined, "bytes=100000-100001", "bytes=9-3", "bytes=-5", "bytes=0-", "lines=0-1", "bytes=0-1,5-6"])(
  "range %s is refused with the size",
  async (range) => {
    const answer = await ask("/media/card", range ? { range } : {});
    expect([answer.status, answer.headers.get("content-range")]).toEqual([416, "bytes */100000"]);
  },
);

test.each(["/media/other", "/media/..%2fsecret.txt"])("%s is no medium", async (path) => {
  expect((await ask(path, { range: "bytes=0-1" })).status).toBe(404);
});

test.each(["/../secret.txt", "/..%2fsecret.txt", "/assets/..%2f..%2fsecret.txt", "/%2e%2e/secret.txt"])(
  "%s gives nothing from outside",
  async (path) => {
    expect(await (await ask(path)).text()).not.toContain("not for anybody");
  },
);

test.each(["GET", "PUT", "POST", "DELETE"])("%s never changes a medium", async (method) => {
  await ask("/media/card", { range: "bytes=0-9" }, method);
  expect(Buffer.from(await (await ask("/media/card", { range: "bytes=0-99999" })).arrayBuffer()).equals(bytes)).toBe(true);
});

describe("only this machine's own pages", () => {
  test.each([
    ["another name for this machine (DNS rebinding)", { host: "wagon.example:4310" }],
    ["a page from elsewhere", { origin: "https://wagon.example" }],
    ["a page without an origin", { origin: "null" }],
    ["a request that another site caused", { "sec-fetch-site": "cross-site" }],
  ])("%s is turned away", async (_, headers) => {
    for (const path of ["/", "/api/media", "/media/card"]) expect((await ask(path, headers)).status).toBe(403);
  });

  test.each<Record<string, string>>([{}, { host: "localhost:4310" }, { host: "[::1]:4310" }, { origin: "http://127.0.0.1:4310" }])(
    "%j is let in",
    async (headers) => {
      expect((await ask("/api/media", headers)).status).toBe(200);
    },
  );
});

test("every answer forbids foreign scripts and requests; unknown addresses are screens of the application", async () => {
  for (const path of ["/", "/job/3/finds", "/assets/main-1.js", "/api/media"]) {
    const answer = await ask(path);
    expect(answer.status, path).toBe(200);
    expect(answer.headers.get("content-security-policy")).toContain("default-src 'none'");
    expect(answer.headers.get("content-security-policy")).toContain("connect-src 'self'");
    expect(answer.headers.get("cross-origin-opener-policy")).toBe("same-origin");
    expect(answer.headers.get("x-content-type-options")).toBe("nosniff");
  }
  expect(await (await ask("/job/3/finds")).text()).toContain("Jubar");
});

test("a medium that went, shrank or became a link to elsewhere is refused", async () => {
  const path = join(folder, "moved.img");
  const moved = { ...medium, id: "moved", path };
  const one = createApp({ dist: relative(process.cwd(), dist), media: [moved], practice: null, token: "", adbServer: async () => false });
  const status = async () =>
    (await one.request("http://127.0.0.1:4310/media/moved", { headers: { host: "127.0.0.1:4310", range: "bytes=0-9" } })).status;
  expect(await status()).toBe(410);
  writeFileSync(path, bytes);
  expect(await status()).toBe(206);
  writeFileSync(path, bytes.subarray(0, 500));
  expect(await status()).toBe(410);
  const elsewhere = mkdtempSync(join(tmpdir(), "jubar-elsewhere-"));
  writeFileSync(join(elsewhere, "secret.img"), bytes);
  rmSync(path);
  symlinkSync(join(elsewhere, "secret.img"), path);
  expect(await status()).toBe(410);
  rmSync(path);
  mkdirSync(path);
  expect(await status()).toBe(410);
  rmSync(elsewhere, { recursive: true });
});

// RFC 9112 §3: what stands in a request line is anybody's. The server is a real one here: an exception in it would end its process.
test.each([
  ["an address that is none", "GET // HTTP/1.1\r\nHost: 127.0.0.1:4310\r\n\r\n"],
  ["half a percent sign", "GET /%E0%A4%A HTTP/1.1\r\nHost: 127.0.0.1:4310\r\n\r\n"],
  ["a host that is none", "GET / HTTP/1.1\r\nHost: [\r\n\r\n"],
  ["an absolute address of nowhere", "GET http://[ HTTP/1.1\r\nHost: 127.0.0.1:4310\r\n\r\n"],
  ["an upgrade to no address", "GET // HTTP/1.1\r\nHost: 127.0.0.1:4310\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n\r\n"],
  ["an upgrade to another protocol", "GET / HTTP/1.1\r\nHost: 127.0.0.1:4310\r\nConnection: Upgrade\r\nUpgrade: h2c\r\n\r\n"],
  ["no request at all", "\r\n\0\0\0 HTTP\r\n\r\n"],
])("%s is answered, and the next request too", async (_, words) => {
  const server = serve({ fetch: app.fetch, hostname: "127.0.0.1", port: 0 });
  addTunnel(server as Server, "secret", () => null);
  if (!server.listening) await once(server, "listening");
  const { port } = server.address() as AddressInfo;
  const raw = connect(port, "127.0.0.1");
  raw.end(words);
  let said = "";
  for await (const piece of raw) said += piece;
  expect(said).toMatch(/^HTTP\/1\.1 [2-4]\d\d /);
  expect((await fetch(`http://127.0.0.1:${port}/api/media`)).status).toBe(200);
  server.close();
});

test("at most 64 MiB are given at once, whatever is asked for", async () => {
  const range = (bytes: number) => ask("/media/long", { range: `bytes=0-${bytes - 1}` });
  const most = 64 * 1024 * 1024;
  const answer = await range(most);
  expect([answer.status, answer.headers.get("content-length")]).toEqual([206, String(most)]);
  await answer.body?.cancel();
  expect((await range(most + 1)).status).toBe(416);
});

test("practice media are unpacked once, whole, beside their packed image", async () => {
  writeFileSync(join(folder, "small.img.gz"), gzipSync(bytes));
  const list = join(folder, "list.json");
  writeFileSync(list, JSON.stringify([{ id: "small", name: "small.img", packed: "small.img.gz", note: "", ticket: null }]));
  const [first] = await practiceMedia(list);
  expect(first).toMatchObject({ id: "small", size: bytes.length });
  const before = execFileSync("stat", ["-c", "%Y %i", first.path], { encoding: "utf8" });
  await practiceMedia(list);
  expect(execFileSync("stat", ["-c", "%Y %i", first.path], { encoding: "utf8" })).toBe(before);
  // What a list may not lead to is there to be led to.
  const below = join(folder, "below");
  mkdirSync(below);
  for (const packed of ["../small.img.gz", join(folder, "small.img.gz")]) {
    writeFileSync(join(below, "list.json"), JSON.stringify([{ id: "small", name: "small.img", packed, note: "", ticket: null }]));
    await expect(practiceMedia(join(below, "list.json")), packed).rejects.toThrow(/packed/);
  }
});

test("a busy port is one clear sentence and a non-zero exit", async () => {
  const blocker = createServer();
  await new Promise<void>((ready) => blocker.listen(0, "127.0.0.1", ready));
  const address = blocker.address();
  const port = typeof address === "object" && address ? address.port : 0;
  mkdirSync("dist", { recursive: true });
  const work = spawn(process.execPath, ["--import", "tsx", "server/main.ts", "--port", String(port)], {
    stdio: ["ignore", "pipe", "pipe"],
  });
  let said = "";
  work.stderr.on("data", (piece) => {
    said += piece;
  });
  const status = await new Promise((done) => work.on("exit", done));
  blocker.close();
  expect(status).toBe(1);
  expect(said).toMatch(new RegExp(`^(Port ${port} is busy|The application is not built yet)[^\n]*\n$`));
});

test("a worn card is asked before it is read: what it refuses is no content and no error, and may come when it is asked again", async () => {
  const worn = {
    ...medium,
    id: "worn",
    reader: flakyReader([
      { start: 512, length: 512, behaviour: "dead" },
      { start: 4096, length: 10, behaviour: "flaky", succeedsOnAttempt: 3 },
    ]),
  };
  const served = createApp({
    dist: relative(process.cwd(), dist),
    media: [worn],
    practice: null,
    token: "secret",
    adbServer: async () => false,
  });
  const read = async (range: string) => {
    const answer = await served.request("http://127.0.0.1:4310/media/worn", { headers: { host: "127.0.0.1:4310", range } });
    return [answer.status, (await answer.arrayBuffer()).byteLength];
  };
  expect(await read("bytes=0-511")).toEqual([206, 512]);
  for (const range of ["bytes=0-1023", "bytes=1000-1000"]) expect(await read(range)).toEqual([204, 0]);
  expect([await read("bytes=4000-5000"), await read("bytes=4096-4096"), await read("bytes=4000-5000")]).toEqual([
    [204, 0],
    [204, 0],
    [206, 1001],
  ]);
});
