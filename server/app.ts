import { serveStatic } from "@hono/node-server/serve-static";
import { Hono } from "hono";
import type { PracticeBench } from "../standins/practice-bench.ts";
import { contentRoutes } from "./contents.ts";
import { headers, onlyLocal } from "./guards.ts";
import { type Medium, rangeAnswer } from "./media.ts";
import { practiceRoutes } from "./practice-phones.ts";

export interface Served {
  /** The built application, relative to the working folder. */
  readonly dist: string;
  /** Media the server was started with. */
  readonly media: readonly Medium[];
  /** The practice kit, where it was asked for. */
  readonly practice: PracticeBench | null;
  /** What its own page needs to open a tunnel. */
  readonly token: string;
  /** Does the machine's own adb server answer? */
  readonly adbServer: () => Promise<boolean>;
}

/** The whole server but its tunnels, which are no requests. */
export function createApp({ dist, media, practice, token, adbServer }: Served): Hono {
  const app = new Hono();
  app.use(headers, onlyLocal);
  app.get("/api/media", (context) =>
    context.json(media.map(({ path: _, reader: __, ...shown }) => ({ ...shown, url: `/media/${shown.id}` }))),
  );
  app.route("/api/practice", practiceRoutes(practice));
  // Another page of this machine may ask, but cannot read the answer: nothing here allows foreign origins (Fetch, CORS protocol).
  app.get("/api/tunnel", async (context) => {
    context.header("Cache-Control", "no-store");
    return context.json({ token, adbServer: await adbServer() });
  });
  app.get("/media/:id", async (context) => {
    const medium = media.find(({ id }) => id === context.req.param("id"));
    if (!medium) return context.text("No such medium.", 404);
    return rangeAnswer(medium, context.req.header("range"));
  });
  app.route("/", contentRoutes(media));
  app.use(
    "/*",
    serveStatic({
      root: dist,
      onFound: (path, context) => context.header("Cache-Control", path.includes("/assets/") ? "max-age=31536000, immutable" : "no-cache"),
    }),
  );
  // Every other address is a screen of the application.
  app.get("/*", serveStatic({ root: dist, path: "index.html" }));
  return app;
}
