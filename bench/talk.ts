import { z } from "zod";
import { withTicket } from "./looking.ts";

const Talk = z.object({ messages: z.number(), lateFrames: z.number() });

/** Opens the longest conversation, and scrolls it for five seconds, a screen's height a second: the part of frames that took over 34 ms. */
const SCROLLED = `(async () => {
  await press("conversations");
  const longest = await until(() => [...document.querySelectorAll('[aria-label="Conversations"] [role="option"]')].find((one) => /(4|5)\\d,\\d{3}/.test(one.textContent)));
  const messages = Number(/(4|5)\\d,\\d{3}/.exec(longest.textContent)[0].replace(",", ""));
  longest.click();
  const thread = await until(() => document.querySelector('[aria-label="Messages"][role="listbox"]'));
  await until(() => thread.querySelector('[role="option"]'));
  thread.scrollTop = 0;
  await new Promise((later) => setTimeout(later, 500));
  const frames = [];
  const started = performance.now();
  for (let last = started; last - started < 5000; ) {
    const now = await new Promise(requestAnimationFrame);
    thread.scrollTop += ((now - last) / 1000) * thread.clientHeight;
    frames.push(now - last);
    last = now;
  }
  if (thread.scrollTop < thread.clientHeight * 3) throw new Error("it did not scroll");
  return { messages, lateFrames: frames.slice(1).filter((time) => time > 34).length / (frames.length - 1) };
})()`;

export const scrolledTalk = (database: string): Promise<z.infer<typeof Talk>> =>
  withTicket(database, async (chromium) => Talk.parse(await chromium.evaluate(SCROLLED)));
