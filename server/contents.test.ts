import { mkdtempSync, rmSync, truncateSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, test } from "vitest";
import { HOLE } from "../core/bytes/extents.ts";
import { noise } from "../test/pictures.ts";
import { createApp } from "./app.ts";
import type { Medium } from "./media.ts";

const folder = mkdtempSync(join(tmpdir(), "jubar-contents-"));
afterAll(() => rmSync(folder, { recursive: true }));
const bytes = noise(100_000);
const path = join(folder, "card.img");
writeFileSync(path, bytes);
const card: Medium = { id: "card", name: "card.img", path, size: bytes.length, note: "a card", ticket: null, reader: null };
/** One sector of it does not read. */
const DEAD = { from: 20_480, to: 20_992 };
const worn: Medium = { ...card, id: "worn", reader: async (offset, length) => offset >= DEAD.to || offset + length <= DEAD.from };
const app = createApp({ dist: folder, media: [card, worn], practice: null, token: "secret", adbServer: async () => false });
const HOST = "127.0.0.1:4310";
const own = { host: HOST, origin: `http://${HOST}`, "content-type": "application/json" };

/** Two pieces, the later one first, and a hole between them. */
const EXTENTS = [
  { offset: 60_000, length: 10_000 },
  { offset: HOLE, length: 5000 },
  { offset: 1000, length: 30_000 },
];
const whole = Buffer.concat([bytes.subarray(60_000, 70_000), new Uint8Array(5000), bytes.subarray(1000, 31_000)]);

const tell = (content: unknown, headers: Record<string, string> = own, medium = "card") =>
  app.request(`http://${HOST}/media/${medium}/contents`, { method: "POST", headers, body: JSON.stringify(content) });
const addressOf = async (extents: unknown = EXTENTS, medium = "card"): Promise<string> =>
  ((await (await tell({ media: "video/mp4", extents }, own, medium)).json()) as { url: string }).url;
const ask = (url: string, range?: string) =>
  app.request(`http://${HOST}${url}`, { headers: { host: HOST, ...(range !== undefined && { range }) } });

// RFC 9110 §14.1.2: both bounds inclusive; without the last one to the end; a last one beyond the end means the end.
test.each([
  [undefined, 200, 0, 45_000],
  ["bytes=0-", 206, 0, 45_000],
  ["bytes=0-0", 206, 0, 1],
  ["bytes=9990-15009", 206, 9990, 15_010],
  ["bytes=44999-99999999", 206, 44_999, 45_000],
])("range %s of a scattered content: %i with exactly those bytes", async (range, status, from, to) => {
  const answer = await ask(await addressOf(), range);
  expect(answer.status).toBe(status);
  expect(answer.headers.get("content-type")).toBe("video/mp4");
  expect(answer.headers.get("content-range")).toBe(range === undefined ? null : `bytes ${from}-${to - 1}/45000`);
  expect(Buffer.from(await answer.arrayBuffer()).equals(whole.subarray(from, to))).toBe(true);
});

test.each(["bytes=45000-", "bytes=9-3", "bytes=-5", "lines=0-1", "bytes=0-1,5-6", ""])(
  "range %s is refused with the size",
  async (range) => {
    const answer = await ask(await addressOf(), range);
    expect([answer.status, answer.headers.get("content-range")]).toEqual([416, "bytes */45000"]);
  },
);

test("places that do not read are zeros, and all that is beside them is there", async () => {
  const extents = [{ offset: 20_000, length: 10_000 }];
  const got = Buffer.from(await (await ask(await addressOf(extents, "worn"))).arrayBuffer());
  const wanted = Buffer.from(bytes.subarray(20_000, 30_000));
  // The reader gives pieces of 4 KiB or nothing of them.
  wanted.fill(0, 20_480 - 20_000, 24_576 - 20_000);
  expect(got.equals(wanted)).toBe(true);
});

test("a player that goes away ends the reading, and its medium is let go of", async () => {
  const big: Medium = { ...card, id: "big", path: join(folder, "big.img"), size: 64 * 1024 * 1024 };
  writeFileSync(big.path, "");
  truncateSync(big.path, big.size);
  let read = 0;
  const counting: Medium = { ...big, reader: async (_, length) => (read += length) > 0 };
  const other = createApp({ dist: folder, media: [counting], practice: null, token: "secret", adbServer: async () => false });
  const body = JSON.stringify({ media: "audio/mpeg", extents: [{ offset: 0, length: big.size }] });
  const { url } = (await (await other.request(`http://${HOST}/media/big/contents`, { method: "POST", headers: own, body })).json()) as {
    url: string;
  };
  const answer = await other.request(`http://${HOST}${url}`, { headers: { host: HOST } });
  const reader = answer.body?.getReader();
  expect((await reader?.read())?.value?.length).toBeGreaterThan(0);
  // Who takes no more is read for no further.
  await new Promise((later) => setTimeout(later, 200));
  await reader?.cancel();
  expect(read).toBeLessThan(2 * 1024 * 1024);
});

describe("what is no content, or not asked for by the own page, has no address", () => {
  const extents = EXTENTS;
  const media = "video/mp4";
  test.each([
    ["beyond the end", { media, extents: [{ offset: 99_999, length: 2 }] }],
    ["before the beginning", { media, extents: [{ offset: -2, length: 2 }] }],
    ["of no length", { media, extents: [{ offset: 0, length: 0 }] }],
    ["of no piece", { media, extents: [] }],
    ["a page", { media: "text/html", extents }],
    ["a drawing that may hold a script", { media: "image/svg+xml", extents }],
    ["a header that is smuggled in", { media: "video/mp4\r\nx: y", extents }],
    ["nothing", null],
  ])("%s", async (_, content) => {
    expect((await tell(content)).status).toBe(400);
  });

  test("a foreign page, a port beside, a medium that is none, more than may be told", async () => {
    expect((await tell({ media, extents }, { ...own, origin: "http://127.0.0.1:9999" })).status).toBe(403);
    expect((await tell({ media, extents }, { host: HOST, "content-type": "application/json" })).status).toBe(403);
    expect((await tell({ media, extents }, own, "other")).status).toBe(404);
    const many = Array.from({ length: 300_000 }, () => extents[0]);
    expect((await tell({ media, extents: many })).status).toBe(413);
    expect((await ask("/contents/nothing")).status).toBe(404);
  });
});

test("whoever was not asked for longest loses its address; one that is played keeps it", async () => {
  const played = await addressOf();
  const left = await addressOf();
  for (let opened = 0; opened < 63; opened++) {
    await ask(played, "bytes=0-0");
    await addressOf();
  }
  expect((await ask(left, "bytes=0-0")).status).toBe(404);
  expect((await ask(played, "bytes=0-0")).status).toBe(206);
});

test("a medium that went is told as gone", async () => {
  const gone: Medium = { ...card, id: "gone", path: join(folder, "gone.img") };
  writeFileSync(gone.path, bytes);
  const other = createApp({ dist: folder, media: [gone], practice: null, token: "secret", adbServer: async () => false });
  const body = JSON.stringify({ media: "video/mp4", extents: EXTENTS });
  const answer = await other.request(`http://${HOST}/media/gone/contents`, { method: "POST", headers: own, body });
  const { url } = (await answer.json()) as { url: string };
  rmSync(gone.path);
  expect((await other.request(`http://${HOST}${url}`, { headers: { host: HOST } })).status).toBe(410);
});
