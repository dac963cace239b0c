import { existsSync } from "node:fs";
import type { Server } from "node:http";
import { parseArgs } from "node:util";
import { serve } from "@hono/node-server";
import { PracticeBench } from "../standins/practice-bench.ts";
import { ADB_SERVER_PORT, adbServerAnswers } from "./adb-server.ts";
import { createApp } from "./app.ts";
import { practiceMedia } from "./practice.ts";
import { addTunnel, newToken } from "./tunnel.ts";

/** Where Jubar listens unless told otherwise. */
const PORT = 4310;

function fail(sentence: string): never {
  process.stderr.write(`${sentence}\n`);
  process.exit(1);
}

const { values } = parseArgs({ options: { port: { type: "string" }, media: { type: "string" }, practice: { type: "boolean" } } });
const port = Number(values.port ?? process.env.JUBAR_PORT ?? PORT);
if (!Number.isInteger(port) || port < 0 || port > 65_535) fail(`${values.port ?? process.env.JUBAR_PORT} is no port number.`);
if (!existsSync("dist/index.html")) fail("The application is not built yet: run npm run build first.");

const media = values.media
  ? await practiceMedia(values.media).catch((cause: Error) => fail(`The practice media cannot be made ready: ${cause.message}`))
  : [];
const practice = values.practice ? await PracticeBench.open() : null;
const token = newToken();
const app = createApp({ dist: "dist", media, practice, token, adbServer: adbServerAnswers });
const server = serve({ fetch: app.fetch, hostname: "127.0.0.1", port }, ({ port: bound }) => {
  process.stdout.write(
    `Jubar is open at http://127.0.0.1:${bound}/${values.media ? " with the practice card on the bench" : ""} (Ctrl-C ends it)\n`,
  );
});
addTunnel(server as Server, token, (name) => {
  if (name === "adb-server") return ADB_SERVER_PORT;
  const [kind, id, protocol] = name.split("/");
  return kind === "practice" ? (practice?.port(id, protocol) ?? null) : null;
});
server.on("error", (cause: NodeJS.ErrnoException) =>
  fail(
    cause.code === "EADDRINUSE"
      ? `Port ${port} is busy: end what runs there, or choose another one with JUBAR_PORT=4311.`
      : `Jubar cannot listen on port ${port}: ${cause.message}`,
  ),
);
for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => process.exit(0));
