import { z } from "zod";
import { PlainChromium } from "./chromium.ts";
import { servePage } from "./page-server.ts";

const Tables = z.object({ rows: z.number(), first: z.array(z.number()).min(1), read: z.array(z.number()).min(1) });

/** The way to the first rows of a large table, and reading its file in the same rounds. Milliseconds. */
export async function tablesInChromium(page: string, path: string): Promise<z.infer<typeof Tables>> {
  const { server, address, posted } = await servePage(page);
  const chromium = new PlainChromium();
  try {
    await chromium.open(`${address}/?tables`);
    await chromium.giveFile(path);
    return Tables.parse(JSON.parse(await posted));
  } finally {
    await chromium.close();
    server.close();
  }
}
