import { z } from "zod";
import { addTunnel, newToken } from "../server/tunnel.ts";
import { PlainChromium } from "./chromium.ts";
import { servePage } from "./page-server.ts";
import { benchPhone } from "./pulls.ts";

const Pulled = z.object({ seconds: z.number(), bytes: z.number() });

/** Pulls a file of a practice phone through the tunnel into a worker of a Chromium of its own. */
export async function pullInChromium(page: string, mebibytes: number): Promise<{ seconds: number; peakMiB: number }> {
  const { phone, port } = await benchPhone(mebibytes);
  const { server, address, posted } = await servePage(page);
  const token = newToken();
  addTunnel(server, token, () => port);
  const chromium = new PlainChromium();
  try {
    await chromium.open(`${address}/?tunnel=${encodeURIComponent(`/tunnel/phone?token=${token}`)}`);
    const { seconds } = Pulled.parse(JSON.parse(await posted));
    return { seconds, peakMiB: chromium.peakRendererMiB() };
  } finally {
    await chromium.close();
    server.close();
    phone.kill();
  }
}
