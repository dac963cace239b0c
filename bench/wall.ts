import { z } from "zod";
import { PlainChromium } from "./chromium.ts";
import { servePage } from "./page-server.ts";

const Wall = z.object({ finds: z.number(), quiet: z.array(z.number()), busy: z.array(z.number()), scanning: z.literal(true) });

/** Milliseconds that 95 of 100 questions need at most. */
const p95 = (times: readonly number[]): number => [...times].sort((a, b) => a - b)[Math.floor(times.length * 0.95)];

/** Questions to the finds of a ticket: when nothing else goes on, and while its two media are scanned. */
export async function wallInChromium(page: string, image: string): Promise<{ finds: number; quiet: number; busy: number }> {
  const { server, address, posted } = await servePage(page);
  const chromium = new PlainChromium();
  try {
    await chromium.open(`${address}/?wall`);
    await chromium.giveFile(image);
    const { finds, quiet, busy } = Wall.parse(JSON.parse(await posted));
    return { finds, quiet: p95(quiet), busy: p95(busy) };
  } finally {
    await chromium.close();
    server.close();
  }
}
