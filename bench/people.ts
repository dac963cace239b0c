import { z } from "zod";
import { PlainChromium } from "./chromium.ts";
import { servePage } from "./page-server.ts";

const times = z.array(z.number()).min(1);
const People = z.object({
  finds: z.number(),
  messages: z.number(),
  records: z.number(),
  quiet: times,
  busy: times,
  opened: times,
  scanning: z.boolean(),
});

/** Of times the one that so large a part of them needs at most. */
const partOf = (all: readonly number[], part: number): number => [...all].sort((a, b) => a - b)[Math.floor(all.length * part)];

export interface PeopleMeasured {
  readonly finds: number;
  readonly messages: number;
  /** Records of people, messages among them. */
  readonly records: number;
  /** Milliseconds that 95 of 100 questions need at most. */
  readonly quiet: number;
  readonly busy: number;
  /** Milliseconds to the last messages of the largest conversation. */
  readonly opened: number;
  /** Memory of the renderer with all of it at hand: page and index. */
  readonly heldMiB: number;
}

/** Questions to a million finds and two hundred thousand messages. */
export async function peopleInChromium(page: string, image: string): Promise<PeopleMeasured> {
  const { server, address, posted } = await servePage(page);
  const chromium = new PlainChromium();
  try {
    await chromium.open(`${address}/?people`);
    await chromium.giveFile(image);
    const { finds, messages, records, quiet, busy, opened } = People.parse(JSON.parse(await posted));
    return {
      finds,
      messages,
      records,
      quiet: partOf(quiet, 0.95),
      busy: partOf(busy, 0.95),
      opened: partOf(opened, 0.5),
      heldMiB: await chromium.rendererMiB(),
    };
  } finally {
    await chromium.close();
    server.close();
  }
}
