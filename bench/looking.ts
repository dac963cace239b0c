import { serve } from "@hono/node-server";
import { z } from "zod";
import { createApp } from "../server/app.ts";
import { PlainChromium } from "./chromium.ts";

/** The built application, driven as a technician does; no test runner beside it. */
const PORT = 27_390;
/** What the page is told to do: in it, `until` waits for something, `press` presses what bears that name. */
const HANDS = `
  window.until = async (ask, most = 120000) => {
    for (const end = performance.now() + most; performance.now() < end; await new Promise(requestAnimationFrame)) { const got = ask(); if (got) return got; }
    throw new Error("waited in vain for " + ask);
  };
  window.press = async (name) => (await until(() => [...document.querySelectorAll("button, a")].find((one) => one.textContent.trim().startsWith(name) && !one.disabled))).click();
  window.search = (words) => {
    const field = document.querySelector('input[placeholder="Names and folders"]');
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(field, words);
    field.dispatchEvent(new Event("input", { bubbles: true }));
  };
  window.wall = () => document.querySelector('[role="listbox"]');
  window.tiles = () => [...document.querySelectorAll('[role="option"]')];
  true;`;

export async function withTicket<R>(image: string, look: (chromium: PlainChromium) => Promise<R>): Promise<R> {
  const app = createApp({ dist: "dist", media: [], practice: null, token: "bench", adbServer: async () => false });
  const server = serve({ fetch: app.fetch, hostname: "127.0.0.1", port: PORT });
  const chromium = new PlainChromium();
  try {
    await chromium.open(`http://127.0.0.1:${PORT}/`);
    await chromium.evaluate(HANDS);
    await chromium.giveFile(image, 'input[aria-label="Disk image"]');
    await chromium.evaluate(
      `until(() => location.pathname.endsWith("/scan")).then(() => press("quick")).then(() => press("Start the scan"))`,
    );
    await chromium.evaluate(`until(() => document.body.textContent.includes("done in")).then(() => press("Finds"))`);
    await chromium.evaluate(`until(() => window.tiles().length > 0)`);
    return await look(chromium);
  } finally {
    await chromium.close();
    server.close();
  }
}

/** Milliseconds until each tile in sight shows something, after the wall was filtered to these. */
const firstScreen = (words: string) => `(async () => {
  search("nothing of this name");
  await until(() => window.tiles().length === 0);
  const started = performance.now();
  search(${JSON.stringify(words)});
  await until(() => window.tiles().length > 5 && window.tiles().every((one) => one.getAttribute("aria-label").startsWith(${JSON.stringify(words)})));
  await until(() => window.tiles().every((one) => one.querySelector("img")));
  return performance.now() - started;
})()`;

/** Five seconds of scrolling, a tile's height every eighth of a second: the part of frames that took over 34 ms. */
const SCROLLING = `(async () => {
  search("");
  await until(() => window.tiles().length > 5);
  const frames = [];
  const started = performance.now();
  for (let last = started; last - started < 5000; ) {
    const now = await new Promise(requestAnimationFrame);
    wall().scrollTop += ((now - last) / 125) * 118;
    frames.push(now - last);
    last = now;
  }
  return frames.slice(1).filter((time) => time > 34).length / (frames.length - 1);
})()`;

const number = z.number();

export interface MixedWall {
  readonly fastMs: number;
  readonly slowMs: number;
  readonly lateFrames: number;
  readonly peakMiB: number;
}

/** A wall of thousands of mixed files. */
export const mixedWall = (image: string): Promise<MixedWall> =>
  withTicket(image, async (chromium) => ({
    fastMs: number.parse(await chromium.evaluate(firstScreen("fast-3"))),
    slowMs: number.parse(await chromium.evaluate(firstScreen("slow-4"))),
    lateFrames: number.parse(await chromium.evaluate(SCROLLING)),
    peakMiB: chromium.peakRendererMiB(),
  }));

const OPEN_FILM = `(async () => {
  const tile = await until(() => window.tiles()[0]);
  tile.dispatchEvent(new MouseEvent("dblclick", { bubbles: true }));
  const film = await until(() => document.querySelector("dialog video"));
  await until(() => film.readyState >= 2);
  return film.duration;
})()`;
const TO_ITS_END = `(async () => {
  const film = document.querySelector("dialog video");
  const started = performance.now();
  film.currentTime = film.duration - 1;
  await new Promise((done) => film.addEventListener("seeked", done, { once: true }));
  return performance.now() - started;
})()`;

/** A film that lies in many pieces: milliseconds to its end, and bytes that were read to show its beginning and its end. */
export const longFilm = (image: string): Promise<{ readonly seekMs: number; readonly bytesRead: number }> =>
  withTicket(image, async (chromium) => {
    // Its frame on the wall and in the inspector is there.
    await chromium.evaluate(`until(() => document.querySelectorAll("[role=option] img, aside img").length >= 2)`);
    const before = chromium.bytesRead();
    number.parse(await chromium.evaluate(OPEN_FILM));
    const seekMs = number.parse(await chromium.evaluate(TO_ITS_END));
    return { seekMs, bytesRead: chromium.bytesRead() - before };
  });
