import { readFileSync } from "node:fs";
import { createServer, type Server } from "node:http";
import { extname, join, resolve } from "node:path";
import { build } from "vite";

const TYPES: Record<string, string> = { ".html": "text/html", ".js": "text/javascript" };

/** The measuring page, served on a loopback port. What it posts is answered by `posted`. */
export interface PageServer {
  readonly server: Server;
  readonly address: string;
  readonly posted: Promise<string>;
}

/** Builds the measuring page into a folder. */
export const buildPage = (folder: string): Promise<unknown> =>
  build({
    root: "bench/page",
    configFile: false,
    logLevel: "error",
    worker: { format: "es" },
    build: { outDir: resolve(folder), emptyOutDir: true, target: "es2023" },
  });

/** Serves the built page until its first post. */
export async function servePage(folder: string): Promise<PageServer> {
  let tell: (text: string) => void = () => {};
  const posted = new Promise<string>((done) => {
    tell = done;
  });
  const server = createServer(async (request, response) => {
    if (request.method === "POST") {
      const parts: Buffer[] = [];
      for await (const part of request) parts.push(part);
      response.end();
      tell(Buffer.concat(parts).toString());
      return;
    }
    const path = join(folder, new URL(request.url ?? "/", "http://x").pathname.replace(/\/$/, "/index.html"));
    try {
      response.setHeader("Content-Type", TYPES[extname(path)] ?? "application/octet-stream").end(readFileSync(path));
    } catch {
      response.writeHead(404).end();
    }
  });
  await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready));
  const address = server.address();
  return { server, address: `http://127.0.0.1:${typeof address === "object" && address ? address.port : 0}`, posted };
}
